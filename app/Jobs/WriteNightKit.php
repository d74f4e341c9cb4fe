<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\NightKit;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Puts the night kit beside the sets. */
final class WriteNightKit implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 43200;

    public function __construct()
    {
        $this->onQueue(Line::Night->value);
    }

    public function handle(): void
    {
        (new NightKit)->write();
    }
}
