<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\Shelf;
use App\Runs\WorkerProcess;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Finds runs whose worker died, or whose wait is over, and has them carried on. */
final class ResumeAbandonedRuns implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        Shelf::goOn();
        foreach (Run::query()->where('state', 'running')->whereNotNull('worker')->get() as $run) {
            if (! WorkerProcess::isAlive((string) $run->worker)) {
                TrailEntry::add("The worker of run {$run->id} died; another goes on with it.", $run->request, null, $run);
                $run->update(['state' => 'queued', 'worker' => null]);
                CarryOutRun::dispatch($run->id);
            }
        }
    }
}
