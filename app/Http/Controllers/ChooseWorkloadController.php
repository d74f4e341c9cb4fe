<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\WorkloadRequest;
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
        // Nothing of what was settled for another is carried over: whoever sees this one need not see that.
        $recoveryRequest->update([
            'workload_id' => $workload->id, 'set_id' => null, 'selection' => null, 'across_points' => false, 'database' => null,
            'destination' => 'new-folder', 'destination_folder' => null, 'destination_host_id' => null, 'conflict' => 'beside',
            'conflict_in' => null, 'rename_to' => null, 'flat' => false, 'use_copies' => null, 'avoid_copies' => null, 'starts_at' => null,
        ]);
        TrailEntry::add("It is about {$workload->name}.", $recoveryRequest, $user);

        return redirect("/requests/{$recoveryRequest->id}?show=when");
    }
}
