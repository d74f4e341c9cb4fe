<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

final readonly class StoreRate
{
    public function __construct(
        public string $site,
        /** 10^6 bytes a second. */
        public float $readMbS,
        /** Seconds before the first byte of each medium. */
        public float $setupS = 0.0,
    ) {
    }
}
