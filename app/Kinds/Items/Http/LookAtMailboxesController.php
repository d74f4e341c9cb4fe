<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Order\MailboxLook;
use App\Looks\KeptLook;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\ContentRead;
use App\View\RequestFrame;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;

/** Has the mailboxes looked at that an order goes into. */
final class LookAtMailboxesController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $request->validate(['show' => ['required', Rule::in(array_keys(RequestFrame::PICKERS))]]);
        $user = $request->user();
        assert($user instanceof User);
        KeptLook::begin($recoveryRequest, MailboxLook::class, []);
        $title = (new MailboxLook($recoveryRequest, []))->title();
        ContentRead::told("Had looked at for request {$recoveryRequest->id}: $title.", $recoveryRequest->workload, $user);

        return redirect("/requests/{$recoveryRequest->id}?show=".$request->string('show')->value());
    }
}
