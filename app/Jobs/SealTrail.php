<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Trail\TrailSeals;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class SealTrail implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        TrailSeals::bringUpToDate();
    }
}
