<?php

declare(strict_types=1);

namespace App\Runs;

use App\NamedLock;
use Kaiseki\Core\Files\UnableToRestore;

/** One run at a time in a target. */
final class TargetLock
{
    /**
     * @param  string|null  $words  what is locked, where it is no folder: "the schema fares on fares-db"
     *
     * @throws UnableToRestore if another run has it
     */
    public static function take(string $target, string $host = '', ?string $words = null): void
    {
        if (! NamedLock::take(self::name($target, $host))) {
            throw $words === null
                ? UnableToRestore::targetUnfit($target, 'another run is at work there; run this one again when that has ended')
                : UnableToRestore::refused("Another run is at work in $words; run this one again when that has ended.");
        }
    }

    public static function free(string $target, string $host = ''): void
    {
        NamedLock::free(self::name($target, $host));
    }

    private static function name(string $target, string $host): string
    {
        return $host === '' ? (realpath($target) ?: $target) : "$host:$target";
    }
}
