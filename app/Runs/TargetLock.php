<?php

declare(strict_types=1);

namespace App\Runs;

use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\UnableToRestore;

/** One run at a time in a target. The lock belongs to the database connection: if its process dies it is free again. */
final class TargetLock
{
    /**
     * @param  string|null  $words  what is locked, where it is no folder: "the schema fares on fares-db"
     *
     * @throws UnableToRestore if another run has it
     */
    public static function take(string $target, string $host = '', ?string $words = null): void
    {
        if ((int) DB::selectOne('SELECT GET_LOCK(?, 0) AS got', [self::name($target, $host)])->got !== 1) {
            throw $words === null
                ? UnableToRestore::targetUnfit($target, 'another run is at work there; run this one again when that has ended')
                : UnableToRestore::refused("Another run is at work in $words; run this one again when that has ended.");
        }
    }

    public static function free(string $target, string $host = ''): void
    {
        DB::selectOne('SELECT RELEASE_LOCK(?) AS freed', [self::name($target, $host)]);
    }

    private static function name(string $target, string $host): string
    {
        return 'kaiseki-'.md5(DB::connection()->getDatabaseName().($host === '' ? (realpath($target) ?: $target) : "$host:$target"));
    }
}
