<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\FilesSaid;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Takes each file from the newest point at which it is right, or all from one point again. */
final class AcrossPointsController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $said = FilesSaid::of($recoveryRequest);
        $on = ! $said->acrossPoints;
        $said
            ->with(acrossPoints: $on)
            ->keepOn($recoveryRequest)
            ->update(['set_id' => null]);
        TrailEntry::add(
            $on ? 'Each file is taken from the newest point at which it is right.' : 'All files are taken from one point again.',
            $recoveryRequest,
            $user,
        );

        return redirect("/requests/{$recoveryRequest->id}?show=when");
    }
}
