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

/** Ends a session that has lasted its hours, or that nobody used for a while: a page that asks by itself how things stand is nobody. */
final class SessionLimit
{
    /** Sent by resources/js/busy.js with what a page asks for by itself. */
    private const BY_ITSELF = 'X-By-Itself';

    public function handle(Request $request, Closure $next): Response
    {
        $user = $request->user();
        if (! ($user instanceof User)) {
            return $next($request);
        }
        $signedIn = new SignedIn($request->session());
        $because = match (true) {
            $signedIn->isOver((int) config('session.hours')) => 'had lasted its hours',
            $signedIn->isIdle((int) config('session.lifetime')) => 'was not used for a while',
            default => null,
        };
        if ($because === null) {
            $request->hasHeader(self::BY_ITSELF) || $signedIn->used();

            return $next($request);
        }
        TrailEntry::add("The session of {$user->email} $because, and was ended.", null, $user, sort: TrailSort::SignIn);
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect()->guest('/sign-in')->withErrors(['email' => "Your session $because. Sign in again."]);
    }
}
