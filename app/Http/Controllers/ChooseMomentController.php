<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\MomentRequest;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Http\RedirectResponse;

final class ChooseMomentController
{
    public function __invoke(MomentRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $recoveryRequest->wantAsSaid($request->string('wanted_at')->value(), $user->zone);
        $recoveryRequest->set_id = null;
        $recoveryRequest->save();
        TrailEntry::add('The wanted moment is now '.$recoveryRequest->wanted_at->format('Y-m-d H:i \U\T\C').'.', $recoveryRequest, $user);

        return redirect("/requests/{$recoveryRequest->id}?show=when");
    }
}
