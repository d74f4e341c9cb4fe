<?php

declare(strict_types=1);

namespace App;

use Illuminate\Support\Facades\DB;

/**
 * That one process at a time does a thing, by a lock of the database server's: it dies with the connection, so that nothing that was
 * killed leaves it behind, however long the thing takes.
 */
final class NamedLock
{
    /**
     * @param  string  $what  of this desk; whatever is its length
     * @return bool whether nobody else has it
     */
    public static function take(string $what): bool
    {
        return (int) DB::scalar('SELECT GET_LOCK(?, 0)', [self::name($what)]) === 1;
    }

    public static function free(string $what): void
    {
        DB::scalar('SELECT RELEASE_LOCK(?)', [self::name($what)]);
    }

    /** Does it, unless somebody else is at it. */
    public static function unlessHeld(string $what, callable $do): void
    {
        if (! self::take($what)) {
            return;
        }
        try {
            $do();
        } finally {
            self::free($what);
        }
    }

    /** A server may have several desks, and takes 64 characters. */
    private static function name(string $what): string
    {
        return 'kaiseki-'.md5(DB::connection()->getDatabaseName().$what);
    }
}
