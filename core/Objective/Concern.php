<?php

declare(strict_types=1);

namespace Kaiseki\Core\Objective;

/** Something about a workload that somebody should see to. */
final readonly class Concern
{
    /** From this weight on it is somebody's business today. */
    private const TODAY = 60;

    public function __construct(
        /** From 0 to 100: how much it matters. */
        public int $weight,
        public string $kind,
        public string $what,
        public string $todo,
    ) {
    }

    public function isToday(): bool
    {
        return $this->weight >= self::TODAY;
    }
}
