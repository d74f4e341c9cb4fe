<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\WorkloadRequest;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Orders\Approvals;
use Illuminate\Http\RedirectResponse;

final class ChooseWorkloadController
{
    public function __invoke(WorkloadRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $workload = Workload::seenBy($user)->findOrFail($request->integer('workload'));
        foreach ($recoveryRequest->approvals()->where('state', 'asked')->get() as $approval) {
            Approvals::withdraw($approval, $user);
        }
        $kind = Kinds::of($workload);
        $wasOf = Kinds::ofRequest($recoveryRequest);
        $dropped = $recoveryRequest->said !== null && $wasOf->name() !== $kind->name();
        // Nothing of what was settled for another is carried over: whoever sees this one need not see that.
        $kind->forget($recoveryRequest);
        $recoveryRequest->update([
            'workload_id' => $workload->id,
            'set_id' => null,
            'use_copies' => null,
            'avoid_copies' => null,
            'starts_at' => null,
        ]);
        TrailEntry::add("It is about {$workload->name}.", $recoveryRequest, $user);

        $back = redirect("/requests/{$recoveryRequest->id}?show=when");

        return $dropped
            ? $back->with('told', "{$workload->name} is {$kind->noun()}: what was chosen for {$wasOf->noun()} is dropped.")
            : $back;
    }
}
