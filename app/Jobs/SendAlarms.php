<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Alarms\AlarmSender;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Sends alarms, in a line of its own: a receiver that hangs holds up nothing else. */
final class SendAlarms implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Alarms->value);
    }

    public function handle(): void
    {
        AlarmSender::sendDue();
    }
}
