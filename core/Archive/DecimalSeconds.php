<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** Times as pax headers and find(1) write them: seconds since 1970 with any number of decimals, perhaps negative. */
final class DecimalSeconds
{
    /** Whole seconds of which the nanoseconds still are a whole number: year 2262. What lies behind is taken for that. */
    private const MOST = 9_223_372_036;

    /** Rounded down; 0 for what is no time. */
    public static function nanoseconds(string $seconds): int
    {
        if (preg_match('/^(-?)([0-9]{1,19})(?:\.([0-9]*))?$/', $seconds, $m) !== 1) {
            return 0;
        }
        $whole = (int) $m[2];
        $part = (int) str_pad(substr($m[3] ?? '', 0, 9), 9, '0');
        $nanoseconds = $whole < self::MOST ? $whole * 1_000_000_000 + $part : self::MOST * 1_000_000_000;

        return $m[1] === '-' ? -$nanoseconds : $nanoseconds;
    }
}
