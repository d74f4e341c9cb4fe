<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\CopiesRequest;
use App\Models\RecoveryRequest;
use Illuminate\Http\RedirectResponse;

/** Settles which stores are read from, and which are left alone. */
final class ChooseCopiesController
{
    public function __invoke(CopiesRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $recoveryRequest->update(['use_copies' => $request->stores('use') ?: null, 'avoid_copies' => $request->stores('avoid') ?: null]);

        return redirect("/requests/{$recoveryRequest->id}?show=how")->with('told', 'The reading list has it.');
    }
}
