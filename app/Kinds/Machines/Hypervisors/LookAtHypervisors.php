<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Jobs\Line;
use App\Kinds\Machines\Annex\Annex;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** What the hypervisors have free, their machines, and what those in annexes wanted; the pages show what was found. */
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
        Annex::query()->whereNull('ended')->get()->each(fn (Annex $annex) => $annex->lookIfItCan());
    }
}
