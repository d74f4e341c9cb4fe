<?php

declare(strict_types=1);

namespace Kaiseki\Core\Estimate;

use InvalidArgumentException;

/** What several measurements of one thing say: a likely value, and between which values most of them lie. */
final readonly class MeasuredRate
{
    private function __construct(
        /** The weighted median, so that one odd run does not move it. */
        public float $likely,
        /** A tenth of the weight lies below. */
        public float $low,
        /** A tenth of the weight lies above. */
        public float $high,
        public int $count,
    ) {
    }

    /**
     * @param  list<array{float, float}>  $measurements  value and weight, the newest first; each older one counts a tenth less than the
     *     one after it
     *
     * @throws InvalidArgumentException if there is none
     */
    public static function of(array $measurements): self
    {
        $aged = [];
        foreach ($measurements as $age => [$value, $weight]) {
            if ($weight > 0) {
                $aged[] = [$value, $weight * 0.9 ** $age];
            }
        }
        if ($aged === []) {
            throw new InvalidArgumentException('There is no measurement.');
        }
        usort($aged, fn (array $a, array $b): int => $a[0] <=> $b[0]);

        return new self(self::quantile($aged, 0.5), self::quantile($aged, 0.1), self::quantile($aged, 0.9), count($aged));
    }

    /** @param  non-empty-list<array{float, float}>  $sorted */
    private static function quantile(array $sorted, float $share): float
    {
        $left = $share * array_sum(array_column($sorted, 1));
        foreach ($sorted as [$value, $weight]) {
            $left -= $weight;
            if ($left <= 0) {
                return $value;
            }
        }

        return $sorted[count($sorted) - 1][0];
    }
}
