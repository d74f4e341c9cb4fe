<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\WorkloadRequest;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;

final class ChooseWorkloadController
{
    public function __invoke(WorkloadRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $workload = Workload::seenBy($user)->findOrFail($request->integer('workload'));
        $recoveryRequest->update(['workload_id' => $workload->id, 'set_id' => null, 'selection' => null]);
        TrailEntry::add("It is about {$workload->name}.", $recoveryRequest, $user);

        return redirect("/requests/{$recoveryRequest->id}?show=when");
    }
}
