<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Trail\SyslogSender;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Sends the trail to a syslog server, where one is set. */
final class SendTrail implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Alarms->value);
    }

    public function handle(): void
    {
        $address = (string) config('logging.trail');
        $address === '' || SyslogSender::sendNew($address);
    }
}
