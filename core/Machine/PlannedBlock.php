<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A block of a point: which set says what it is. */
final readonly class PlannedBlock
{
    public function __construct(
        /** Which of the sets of the chain, from 0 for the topmost. */
        public int $level,
        public BlockState $state,
        /** BLAKE2b-256 of the block; '' for zeros and what is not known. */
        public string $digest,
    ) {
    }

    public function isKnown(): bool
    {
        return $this->state !== BlockState::Unknown;
    }
}
