<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\NightKit;
use App\Care\StandingOf;
use App\Runs\SetAsides;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * What is done once a night: how each workload stands is written down, what was set aside long enough goes, and the night kit is put
 * beside the sets.
 */
final class NightWork implements ShouldQueue
{
    use Queueable;

    public function handle(): void
    {
        StandingOf::recordAll();
        SetAsides::clearOld();
        (new NightKit)->write();
    }
}
