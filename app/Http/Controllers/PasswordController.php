<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\People\SignedIn;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Hash;
use Illuminate\Support\Facades\RateLimiter;

/** Asks for the password again; what was to be done is pressed again after it. */
final class PasswordController
{
    private const TRIES_A_MINUTE = 5;

    public function show(): View
    {
        return view('password');
    }

    public function store(Request $request): RedirectResponse
    {
        $request->validate(['password' => ['required', 'string', 'max:1000']]);
        $user = $request->user();
        assert($user instanceof User);
        $key = "password-again|{$user->id}";
        if (RateLimiter::hit($key) > self::TRIES_A_MINUTE) {
            return back()->withErrors(['password' => 'Too many tries. Wait '.RateLimiter::availableIn($key).' seconds, then try again.']);
        }
        if (! Hash::check($request->string('password')->value(), $user->password)) {
            TrailEntry::add("{$user->email} gave a wrong password again.", null, $user, sort: TrailSort::SignIn, result: 'refused');

            return back()->withErrors(['password' => 'That is not your password.']);
        }
        RateLimiter::clear($key);
        (new SignedIn($request->session()))->passwordGiven();

        return redirect()->intended('/')->with('told', 'Thank you. What you were about to do was not done yet: press it again.');
    }
}
