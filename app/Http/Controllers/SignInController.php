<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\SignInRequest;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Validation\ValidationException;

final class SignInController
{
    public function create(): View
    {
        return view('sign-in');
    }

    public function store(SignInRequest $request): RedirectResponse
    {
        $keys = $this->limits($request);
        foreach ($keys as $key => $most) {
            if (RateLimiter::tooManyAttempts($key, $most)) {
                throw ValidationException::withMessages(['email' => 'Too many tries. Wait '.RateLimiter::availableIn($key).' seconds, then try again.'])->status(429);
            }
        }
        if (! Auth::attempt($request->only('email', 'password'))) {
            foreach (array_keys($keys) as $key) {
                RateLimiter::hit($key);
            }
            throw ValidationException::withMessages(['email' => 'This address and password do not belong together.']);
        }
        RateLimiter::clear((string) array_key_first($keys));
        $request->session()->regenerate();

        return redirect()->intended('/');
    }

    /** @return array<string, int> failed tries a minute: for one account from one address, and from one address whatever the account */
    private function limits(SignInRequest $request): array
    {
        return ['sign-in|'.mb_strtolower($request->string('email')->value()).'|'.$request->ip() => 5, 'sign-in|'.$request->ip() => 30];
    }

    public function destroy(Request $request): RedirectResponse
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/sign-in');
    }
}
