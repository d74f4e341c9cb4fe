<?php

declare(strict_types=1);

namespace App\Activity;

use Carbon\CarbonImmutable;
use stdClass;

/** One thing that was done to a workload. */
final readonly class ActivityLine
{
    private function __construct(
        public ActivitySort $sort,
        /** Among those of its sort. */
        public int $id,
        public int $workload,
        public string $workloadName,
        /** Null for the clock, and the command line. */
        public ?string $person,
        /** When it began. */
        public CarbonImmutable $at,
        /** Null while it is not over, or where it was not measured. */
        public ?float $seconds,
        public int $bytes,
        public int $things,
        public ActivityResult $result,
        /** What it was about, such as the name of the set. */
        public string $about,
    ) {
    }

    /** @param  stdClass  $row  of Activities */
    public static function of(stdClass $row): self
    {
        return new self(
            ActivitySort::from($row->sort),
            (int) $row->id,
            (int) $row->workload_id,
            (string) $row->workload_name,
            $row->person,
            CarbonImmutable::parse($row->at, 'UTC'),
            $row->seconds === null ? null : (float) $row->seconds,
            (int) $row->bytes,
            (int) $row->things,
            ActivityResult::from($row->result),
            (string) $row->about,
        );
    }

    public function url(): string
    {
        return "/activity/{$this->sort->value}/{$this->id}";
    }
}
