<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** Images of rows of one twin that lie one behind the other, and which of the transaction's row changes made them. */
final class TouchRange
{
    public function __construct(
        public readonly string $twin,
        /** Whether they are what rows became, not what they were. */
        public readonly bool $isAfter,
        /** Number of the first among the images of the twin, counted from one. */
        public readonly int $first,
        public int $last,
        /** What makes these numbers those of the row changes. */
        public readonly int $delta,
    ) {
    }
}
