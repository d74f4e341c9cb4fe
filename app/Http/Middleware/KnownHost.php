<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Exception\SuspiciousOperationException;
use Symfony\Component\HttpFoundation\Response;

/** Answers only to names that are known: links and redirects are made of the name that a browser sends. */
final class KnownHost
{
    public function handle(Request $request, Closure $next): Response
    {
        try {
            $isKnown = in_array(strtolower($request->getHost()), (array) config('app.hosts'), true);
        } catch (SuspiciousOperationException) {
            $isKnown = false;
        }

        return $isKnown ? $next($request) : new Response(
            "Nothing is served under this name. Whoever started Kaiseki lists the names it is known by in KAISEKI_HOSTS.\n",
            400, ['Content-Type' => 'text/plain; charset=utf-8'],
        );
    }
}
