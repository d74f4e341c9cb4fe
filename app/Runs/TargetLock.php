<?php

declare(strict_types=1);

namespace App\Runs;

use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\UnableToRestore;

/** One run at a time in a target. The lock belongs to the database connection: if its process dies it is free again. */
final class TargetLock
{
    /** @throws UnableToRestore if another run has it */
    public static function take(string $target): void
    {
        if ((int) DB::selectOne('SELECT GET_LOCK(?, 0) AS got', [self::name($target)])->got !== 1) {
            throw UnableToRestore::targetUnfit($target, 'another run is at work there; run this one again when that has ended');
        }
    }

    public static function free(string $target): void
    {
        DB::selectOne('SELECT RELEASE_LOCK(?) AS freed', [self::name($target)]);
    }

    private static function name(string $target): string
    {
        return 'kaiseki-'.md5(DB::connection()->getDatabaseName().(realpath($target) ?: $target));
    }
}
