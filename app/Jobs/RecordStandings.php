<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\HeldDays;
use App\Care\StandingOf;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Writes down how each workload stands today, and how much of it lies where. */
final class RecordStandings implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 43200;

    public function __construct()
    {
        $this->onQueue(Line::Night->value);
    }

    public function handle(): void
    {
        StandingOf::recordAll();
        HeldDays::record();
    }
}
