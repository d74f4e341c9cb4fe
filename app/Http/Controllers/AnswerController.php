<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\AnswerRequest;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Http\RedirectResponse;

/** Whether what came back is right: yes closes the request, no puts it back on the desk. */
final class AnswerController
{
    public function __invoke(AnswerRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $yes = $request->string('answer')->value() === 'yes';
        $words = $request->string('words')->trim()->value();
        $recoveryRequest->update([
            'answer' => $yes ? 'yes' : 'no',
            'answer_words' => $words === '' ? null : $words,
            'state' => $yes ? 'closed' : 'open',
            'closed_at' => $yes ? now() : null,
        ]);
        TrailEntry::add(
            ($yes ? 'Confirmed as right; the request is closed.' : 'Not right; the request is open again.').
                ($words === '' ? '' : " \"$words\""),
            $recoveryRequest,
            $user,
        );

        return redirect("/requests/{$recoveryRequest->id}?show=proof")->with(
            'told',
            $yes ? 'The request is closed.' : 'The request is open again.',
        );
    }
}
