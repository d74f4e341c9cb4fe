<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Alarms\AlarmBook;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Looks what alarms are to be raised, and which are over. */
final class WatchAlarms implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        AlarmBook::look();
    }
}
