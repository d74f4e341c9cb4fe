<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Estimate\DurationRange;
use Kaiseki\Core\Estimate\RestoreEstimate;

/**
 * What a way of restoring costs. The rates were measured on a two-core machine (docs/decisions/0020): rows go into a
 * server at 12 MB of dump a second, a log is rolled forward at 2,500 transactions a second, or 6 MB a second where they are
 * large, checksums are taken at 140 MB a second; rows are compared one by one, and changed, at 6,500 a second. A slower or
 * faster machine is what the range is for.
 */
final readonly class WayEstimate
{
    private const ROLL_TRANSACTIONS = 2500.0;

    private const CHECK_BYTES = 140e6;

    private const ROWS = 6500;

    private const START = 1.5;

    private function __construct(public DurationRange $whole, public DurationRange $downtime, public int $bytes)
    {
    }

    /** A whole restore: loaded, rolled forward, brought beside, and perhaps changing places at the end. */
    public static function whole(
        int $dumpBytes,
        int $wantedBytes,
        int $logBytes,
        int $transactions,
        bool $inPlace,
        WorkRates $rates = new WorkRates,
    ): self {
        $isDirect = $logBytes === 0;
        $seconds =
            self::START +
            ($isDirect ? 0 : $dumpBytes / $rates->load) +
            max($transactions / self::ROLL_TRANSACTIONS, $logBytes / $rates->roll) +
            $wantedBytes / $rates->load +
            (2 * $wantedBytes) / self::CHECK_BYTES;

        return new self(self::range($seconds, $rates), $inPlace ? self::range(0.3) : self::range(0), $dumpBytes + $logBytes);
    }

    /** Rows, from whole tables before and after: nothing is down, the rows are locked while they change. */
    public static function rows(int $dumpBytes, int $logBytes, int $transactions, int $rows, WorkRates $rates = new WorkRates): self
    {
        return new self(
            self::range(
                self::START +
                    $dumpBytes / $rates->load +
                    max($transactions / self::ROLL_TRANSACTIONS, $logBytes / $rates->roll) +
                    $rows / self::ROWS,
                $rates,
            ),
            self::range(0),
            $dumpBytes + $logBytes,
        );
    }

    /** Rows, from the images in the log alone. */
    public static function reversal(int $logBytes, int $rows): self
    {
        return new self(self::range(self::START + $logBytes / 60e6 + $rows / self::ROWS), self::range(0), $logBytes);
    }

    /**
     * The same with what comes before the first byte: a way to the shelf, cartridges that are loaded; and a reading that is slower than
     * the work.
     */
    public function withReading(RestoreEstimate $reading): self
    {
        $before = $reading->fetching->plus(
            DurationRange::of($reading->setupSeconds, $reading->setupSeconds * 0.7, $reading->setupSeconds * 1.6),
        );
        $slower = DurationRange::of(
            max($this->whole->likely, $reading->reading->likely),
            max($this->whole->least, $reading->reading->least),
            max($this->whole->most, $reading->reading->most),
        );

        return new self($slower->plus($before), $this->downtime, $this->bytes);
    }

    /** @return array{likely: float, least: float, most: float, lanes: list<string>} as a run keeps it */
    public function toArray(): array
    {
        return [
            'likely' => round($this->whole->likely, 2),
            'least' => round($this->whole->least, 2),
            'most' => round($this->whole->most, 2),
            'lanes' => [],
        ];
    }

    /** Where rates were measured the range is what they were apart, with something for the rest. */
    private static function range(float $seconds, WorkRates $rates = new WorkRates): DurationRange
    {
        return DurationRange::of($seconds, $seconds * 0.6, $seconds * ($rates->spread > 0 ? 1.2 * $rates->spread : 2.2));
    }
}
