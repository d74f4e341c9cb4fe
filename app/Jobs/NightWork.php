<?php

declare(strict_types=1);

namespace App\Jobs;

use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Begins what is done once a night. */
final class NightWork implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    /** The shortest first. */
    public const PARTS = [RecordStandings::class, ClearSetAsides::class, CheckTrail::class, WriteNightKit::class];

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        foreach (self::PARTS as $part) {
            $part::dispatch();
        }
    }
}
