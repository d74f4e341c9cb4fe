<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\ConsentRequest;
use App\Models\Consent;
use App\Models\User;
use App\Orders\CannotOrder;
use App\Orders\Consents;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;

/** A deed on a workload that waits for a second person: what it would do, and their yes or no. */
final class ConsentController
{
    public function show(Consent $consent): View
    {
        return view('consent', ['consent' => $consent]);
    }

    public function update(ConsentRequest $request, Consent $consent): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $do = $request->string('do')->value();
        $page = "/consents/{$consent->id}";
        if ($do === 'withdraw') {
            Consents::withdraw($consent, $user);

            return redirect($page);
        }
        $words = $request->filled('words') ? $request->string('words')->value() : null;
        $seen = $do === 'approve' ? $request->string('seen')->value() : null;
        try {
            return redirect($page)->with('told', Consents::decide($consent, $user, $seen, $words));
        } catch (CannotOrder $cannot) {
            return redirect($page)->withErrors(['do' => $cannot->getMessage()]);
        }
    }
}
