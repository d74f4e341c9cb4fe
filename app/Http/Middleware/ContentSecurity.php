<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** Tells the browser to take nothing from anywhere but this application, and no script that stands in a page. */
final class ContentSecurity
{
    private const NAME = 'Content-Security-Policy';

    public function handle(Request $request, Closure $next): Response
    {
        $response = $next($request);
        if (! $response->headers->has(self::NAME)) { // what shows something hostile lets even less through
            $response->headers->set(
                self::NAME,
                "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; ".
                    "frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
            );
        }
        if ($request->secure()) {
            $response->headers->set('Strict-Transport-Security', 'max-age=31536000'); // RFC 6797
        }
        $response->headers->set('X-Content-Type-Options', 'nosniff');
        $response->headers->set('Referrer-Policy', 'same-origin');
        if (! $response->headers->has('Cache-Control') || $request->user() !== null) {
            $response->headers->set('Cache-Control', 'no-store, private');
        }

        return $response;
    }
}
