<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/** Once that something takes place. */
final readonly class Occurrence
{
    public function __construct(
        /** By which the series names it, see CalendarTime::key(): when the rule has it, also where it was moved. */
        public string $key,
        /** Seconds since 1970; the second exclusive. */
        public int $begins,
        public int $ends,
        public bool $isException,
        public string $summary,
        public string $place,
    ) {
    }
}
