<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use App\People\SignedIn;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** Before what cannot be undone, or gives rights: whoever sits there is asked for the password, unless it was given a while ago. */
final class PasswordAgain
{
    public function handle(Request $request, Closure $next): Response
    {
        if ((new SignedIn($request->session()))->isFresh()) {
            return $next($request);
        }
        $request->session()->put('url.intended', url()->previous('/'));

        return redirect('/password');
    }
}
