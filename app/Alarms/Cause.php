<?php

declare(strict_types=1);

namespace App\Alarms;

use App\Models\AlarmSort;

/** Something that is so now, and of which somebody must hear. */
final readonly class Cause
{
    /**
     * @param  string  $subject  what tells it from others of its sort: the number of a run, a store and its cartridge
     * @param  string  $words  what happened, as a sentence
     * @param  string  $page  address where it is seen to
     */
    public function __construct(
        public AlarmSort $sort,
        public string $subject,
        public string $words,
        public string $page,
        public ?int $workload = null,
    ) {
    }

    public function key(): string
    {
        return mb_strcut("{$this->sort->value} {$this->subject}", 0, 200);
    }
}
