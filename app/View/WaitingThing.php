<?php

declare(strict_types=1);

namespace App\View;

use Carbon\CarbonImmutable;

/** Something that waits for a person, and the one step that comes next. */
final readonly class WaitingThing
{
    public function __construct(
        /** The heavier, the sooner: 100 for what may be doing harm already, 60 and more for what somebody is kept waiting by. */
        public int $weight,
        /** What it concerns: "request 12", a workload, a cartridge. */
        public string $about,
        public string $what,
        /** Since when it waits, or until when there is time. */
        public ?CarbonImmutable $at,
        public string $step,
        /** Where that step is taken. */
        public string $url,
        /** For tests and for coming back to it with the keyboard. */
        public string $id,
    ) {
    }

    public function isUrgent(): bool
    {
        return $this->weight >= 60;
    }
}
