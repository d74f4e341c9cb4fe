<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\People\SignedIn;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Symfony\Component\HttpFoundation\Response;

/** Ends a session that has lasted its hours. That nobody used it for a while the store of the sessions looks to. */
final class SessionLimit
{
    public function handle(Request $request, Closure $next): Response
    {
        $user = $request->user();
        if (! ($user instanceof User) || ! (new SignedIn($request->session()))->isOver((int) config('session.hours'))) {
            return $next($request);
        }
        TrailEntry::add("The session of {$user->email} had lasted its hours, and was ended.", null, $user, sort: TrailSort::SignIn);
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect()->guest('/sign-in')->withErrors(['email' => 'Your session has lasted its hours. Sign in again.']);
    }
}
