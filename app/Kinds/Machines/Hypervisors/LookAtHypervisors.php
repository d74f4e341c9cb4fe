<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Jobs\Line;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** What the hypervisors have free, and their machines; the pages show what was found. */
final class LookAtHypervisors implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        HypervisorHost::query()->get()->each(fn (HypervisorHost $host) => $host->lookIfItAnswers());
    }
}
