<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\PromiseRequest;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;

/** Settles what is promised for a workload. */
final class PromiseController
{
    public function __invoke(PromiseRequest $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $workload->update([
            'rpo_s' => $request->seconds('rpo'),
            'rto_s' => $request->seconds('rto'),
            'needs_outside_copy' => $request->boolean('outside'),
        ]);
        TrailEntry::add("What is promised for {$workload->name} was settled.", null, $user, sort: TrailSort::Rule);

        return redirect("/workloads/{$workload->id}/care")->with('told', 'Settled.');
    }
}
