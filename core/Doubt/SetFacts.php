<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

/** What is known of a set when it is asked whether it is as usual. */
final readonly class SetFacts
{
    public function __construct(
        public string $level,
        /** 1 for Monday to 7, where its people live. */
        public int $weekday,
        /** Of the archive. */
        public int $bytes,
        /** @var array<string, int|float> see ChangeMeasures::figures(); none if they were never taken */
        public array $figures,
        /** How long making it took; null if that is not known. */
        public ?float $seconds = null,
        /** Whether there was doubt about it: then it does not count as usual. */
        public bool $doubted = false,
    ) {
    }

    public function figure(string $name): int|float
    {
        return $this->figures[$name] ?? 0;
    }
}
