<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** Which sets, from which copies, in which order. */
final readonly class ReadingList
{
    public function __construct(
        /** @var list<Reading> */
        public array $readings,
        public float $setupSeconds,
        /** Set-up included. */
        public float $totalSeconds,
        /** Whether no cheaper choice exists; false where there were too many media to try them all. */
        public bool $exact,
    ) {
    }
}
