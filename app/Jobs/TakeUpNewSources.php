<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\NewSources;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Takes up new sources whose group has a rule, and keeps the others for the pages. A host that does not answer holds up the making of
 * sets alone.
 */
final class TakeUpNewSources implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Sets->value);
    }

    public function handle(): void
    {
        (new NewSources)->takeUpByRule();
    }
}
