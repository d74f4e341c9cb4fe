<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\StartRequest;
use App\Models\RecoveryRequest;
use App\Models\User;
use Carbon\CarbonImmutable;
use Illuminate\Http\RedirectResponse;

final class ChooseStartController
{
    public function __invoke(StartRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $at = $request->filled('starts_at') ? CarbonImmutable::parse($request->string('starts_at')->value(), $user->zone)->utc() : null;
        if ($at !== null && ! $at->isFuture()) {
            return redirect("/requests/{$recoveryRequest->id}?show=run")->withErrors([
                'starts_at' => 'That moment is over. Leave it empty to begin at once.',
            ]);
        }
        $recoveryRequest->update(['starts_at' => $at]);

        return redirect("/requests/{$recoveryRequest->id}?show=run");
    }
}
