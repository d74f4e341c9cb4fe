<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** One row that is not the same in two tables. */
final readonly class DifferentRow
{
    public function __construct(
        /** Its number in the old table, from 1; null if it was added. */
        public ?int $left,
        /** Its number in the new one; null if it was removed. */
        public ?int $right,
        /** @var list<string> as it is in the new one, or was */
        public array $cells,
        /** @var array<int, string> column => what stood there before */
        public array $before,
    ) {
    }
}
