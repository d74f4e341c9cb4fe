<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\SignInRequest;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\People\BrowserMark;
use App\People\SignedIn;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\Hash;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\Str;
use Illuminate\Validation\ValidationException;

final class SignInController
{
    public function create(): View
    {
        return view('sign-in');
    }

    public function store(SignInRequest $request): RedirectResponse
    {
        $password = $request->string('password')->value();
        $user = User::query()
            ->where('email', $request->string('email')->value())
            ->first();
        $keys = $this->limits($request, $user);
        foreach ($keys as $key => $most) {
            // Counted first, and looked at then: of many at once none comes past it.
            if (RateLimiter::hit($key) > $most) {
                throw ValidationException::withMessages([
                    'email' => 'Too many tries. Wait '.RateLimiter::availableIn($key).' seconds, then try again.',
                ])->status(429);
            }
        }
        // As much work where there is nobody of that address.
        $nobodys = Cache::rememberForever('nobodys-password', fn (): string => Hash::make(Str::random(40)));
        $isRight = Hash::check($password, $user->password ?? $nobodys);
        if ($user === null || ! $isRight) {
            // Of an address that is nobody's only that: a password is typed there by mistake now and then.
            self::tell($user === null ? 'An address was tried that is nobody\'s.' : "A wrong password was tried for {$user->email}.", null);
            throw ValidationException::withMessages(['email' => 'This address and password do not belong together.']);
        }
        if ($user->locked_at !== null) {
            self::tell("{$user->email} is locked, and tried to sign in.", $user);
            throw ValidationException::withMessages(['email' => 'This account is locked. Ask whoever administers Kaiseki.']);
        }
        [$here, $everywhere, $address] = array_keys($keys);
        RateLimiter::clear($here);
        RateLimiter::clear($everywhere);
        RateLimiter::decrement($address); // who signs in well has not used up a try
        Auth::login($user);
        $request->session()->regenerate();
        (new SignedIn($request->session()))->begin();
        BrowserMark::give();
        self::tell("{$user->email} signed in.", $user, 'done');

        return redirect()->intended('/');
    }

    /**
     * By the account as the database finds it, however its address was written.
     *
     * @return array<string, int> tries a minute: for one account from one address, for one account from all, for all from one address
     */
    private function limits(SignInRequest $request, ?User $user): array
    {
        $account = $user === null ? hash('sha256', mb_strtolower($request->string('email')->value())) : "user-{$user->id}";

        return ["sign-in|$account|{$request->ip()}" => 5, "sign-in|$account" => 20, "sign-in|{$request->ip()}" => 30];
    }

    private static function tell(string $what, ?User $user, string $result = 'refused'): void
    {
        TrailEntry::add($what, null, $user, sort: TrailSort::SignIn, result: $result);
    }

    public function destroy(Request $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        self::tell("{$user->email} signed out.", $user, 'done');
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/sign-in');
    }
}
