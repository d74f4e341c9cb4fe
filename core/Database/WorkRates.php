<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Estimate\MeasuredRate;

/** How fast a throw-away server here takes a dump, and is rolled forward: as measured, or as it was on the machine this was written on. */
final readonly class WorkRates
{
    public const LOAD = 12e6;

    public const ROLL = 6e6;

    /**
     * @param  float  $load  bytes of a dump a second
     * @param  float  $roll  bytes of logs a second
     * @param  float  $spread  how far the slowest tenth lies below the likely one: 2.0 is half as fast; 0 where nothing was measured
     */
    public function __construct(public float $load = self::LOAD, public float $roll = self::ROLL, public float $spread = 0)
    {
    }

    public static function of(?MeasuredRate $load, ?MeasuredRate $roll): self
    {
        $spreads = array_map(fn (MeasuredRate $rate): float => $rate->likely / max($rate->low, 1), array_filter([$load, $roll]));

        return new self($load->likely ?? self::LOAD, $roll->likely ?? self::ROLL, $spreads === [] ? 0 : max($spreads));
    }
}
