<?php

declare(strict_types=1);

namespace App\Line;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/**
 * Only over the line of recovery media and agents, which has TLS (bin/configuration.sh says so); by any other there is nothing at these
 * addresses.
 */
final class OnlyByLine
{
    /** The header with the token by which whoever asks is known. */
    public const TOKEN = 'X-Kaiseki-Token';

    public const SAID_BY_SERVER = 'KAISEKI_METAL';

    public function handle(Request $request, Closure $next): Response
    {
        return $request->server(self::SAID_BY_SERVER) === 'on' ? $next($request) : abort(404);
    }
}
