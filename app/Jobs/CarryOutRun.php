<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Run;
use App\Runs\RunCarrier;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class CarryOutRun implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $run)
    {
        $this->onQueue('runs');
    }

    public function handle(): void
    {
        $run = Run::query()->find($this->run);
        // Two of these jobs may exist for one run after a crash: only one of them carries it.
        if ($run === null || $run->isOver() || ($run->state === 'running' && $run->worker !== null && RunCarrier::isAlive($run->worker))) {
            return;
        }
        (new RunCarrier)->carryOut($run);
    }
}
