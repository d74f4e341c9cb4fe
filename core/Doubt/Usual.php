<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

/** What is usual for a figure: its median, and the median of how far the others lie from it (MAD). */
final readonly class Usual
{
    /** 1.4826 times the MAD is the standard deviation of normally spread figures (P. J. Rousseeuw and C. Croux, 1993). */
    private const TO_DEVIATION = 1.4826;

    private function __construct(public float $median, public float $mad, public int $count)
    {
    }

    /** @param  list<int|float>  $figures at least one */
    public static function of(array $figures): self
    {
        $median = self::median($figures);

        return new self(
            $median,
            self::median(array_map(fn (int|float $figure): float => abs($figure - $median), $figures)),
            count($figures),
        );
    }

    /**
     * How many deviations above (or, negative, below) the median a figure lies.
     *
     * @param  float  $floor  the least that counts as a deviation: figures that are nearly always the same would make any change a wonder
     */
    public function score(int|float $figure, float $floor): float
    {
        return ($figure - $this->median) / max(self::TO_DEVIATION * $this->mad, $floor, 1e-9);
    }

    /** @param  list<int|float>  $figures */
    private static function median(array $figures): float
    {
        sort($figures);
        $count = count($figures);
        if ($count === 0) {
            return 0.0;
        }

        return $count % 2 === 1 ? (float) $figures[intdiv($count, 2)] : ($figures[intdiv($count, 2) - 1] + $figures[intdiv($count, 2)]) / 2;
    }
}
