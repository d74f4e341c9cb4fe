<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** One line of a reading list. */
final readonly class Reading
{
    public function __construct(
        public BackupSet $set,
        public SetCopy $copy,
        public int $bytes,
        /** Without set-up. */
        public float $seconds,
    ) {
    }
}
