<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Http\RedirectResponse;

final class ChoosePointController
{
    public function __invoke(PointRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $set = $request->filled('set')
            ? BackupSet::query()->where('workload_id', $recoveryRequest->workload_id)->findOrFail($request->integer('set'))
            : null;
        $recoveryRequest->update(['set_id' => $set?->id]);
        TrailEntry::add(
            $set === null ? 'The proposed point is taken again.' : "The point {$set->name} was chosen by hand.",
            $recoveryRequest,
            $user,
        );

        return redirect("/requests/{$recoveryRequest->id}?show=when".$request->string('view')->value());
    }
}
