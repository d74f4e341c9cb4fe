<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\People\OpenSession;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Where one is signed in, and an end to it. */
final class SessionController
{
    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('sessions', ['sessions' => OpenSession::of($user, $request->session()->getId()), 'zone' => $user->zone]);
    }

    public function destroy(Request $request): RedirectResponse
    {
        $request->validate(['session' => ['nullable', 'string', 'max:16']]);
        $user = $request->user();
        assert($user instanceof User);
        $ended = $request->filled('session')
            ? OpenSession::end($user, $request->string('session')->value())
            : OpenSession::endOthers($user, $request->session()->getId());
        TrailEntry::add("{$user->email} ended $ended of their sessions.", null, $user, sort: TrailSort::SignIn);

        return redirect('/sessions')->with('told', $ended === 0 ? 'There was none to end.' : "Ended: $ended.");
    }
}
