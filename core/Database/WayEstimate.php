<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Estimate\DurationRange;

/**
 * What a way of restoring costs. The rates were measured on a two-core machine (docs/decisions/0020): rows go into a
 * server at 12 MB of dump a second, a log is rolled forward at 2,500 transactions a second, or 6 MB a second where they are
 * large, checksums are taken at 140 MB a second; rows are compared one by one, and changed, at 6,500 a second. A slower or
 * faster machine is what the range is for.
 */
final readonly class WayEstimate
{
    private const LOAD_BYTES = 12e6;

    private const ROLL_TRANSACTIONS = 2500.0;

    private const ROLL_BYTES = 6e6;

    private const CHECK_BYTES = 140e6;

    private const ROWS = 6500;

    private const START = 1.5;

    private function __construct(public DurationRange $whole, public DurationRange $downtime, public int $bytes)
    {
    }

    /** A whole restore: loaded, rolled forward, brought beside, and perhaps changing places at the end. */
    public static function whole(int $dumpBytes, int $wantedBytes, int $logBytes, int $transactions, bool $inPlace): self
    {
        $isDirect = $logBytes === 0;
        $seconds = self::START + ($isDirect ? 0 : $dumpBytes / self::LOAD_BYTES) + max($transactions / self::ROLL_TRANSACTIONS, $logBytes / self::ROLL_BYTES) + $wantedBytes / self::LOAD_BYTES + 2 * $wantedBytes / self::CHECK_BYTES;

        return new self(self::range($seconds), $inPlace ? self::range(0.3) : self::range(0), $dumpBytes + $logBytes);
    }

    /** Rows, from whole tables before and after: nothing is down, the rows are locked while they change. */
    public static function rows(int $dumpBytes, int $logBytes, int $transactions, int $rows): self
    {
        return new self(self::range(self::START + $dumpBytes / self::LOAD_BYTES + max($transactions / self::ROLL_TRANSACTIONS, $logBytes / self::ROLL_BYTES) + $rows / self::ROWS), self::range(0), $dumpBytes + $logBytes);
    }

    /** Rows, from the images in the log alone. */
    public static function reversal(int $logBytes, int $rows): self
    {
        return new self(self::range(self::START + $logBytes / 60e6 + $rows / self::ROWS), self::range(0), $logBytes);
    }

    private static function range(float $seconds): DurationRange
    {
        return DurationRange::of($seconds, $seconds * 0.6, $seconds * 2.2);
    }
}
