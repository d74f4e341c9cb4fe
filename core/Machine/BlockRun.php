<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A block, or of zeros a run of them, as a list of blocks has it. */
final readonly class BlockRun
{
    public function __construct(
        /** From 0. */
        public int $number,
        public BlockState $state,
        /** How many; 1 but for zeros. */
        public int $count = 1,
        /** BLAKE2b-256, 32 bytes; '' for zeros and where it is not known. */
        public string $digest = '',
    ) {
    }
}
