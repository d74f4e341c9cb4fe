<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Kinds\Kinds;
use App\Models\Run;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class CarryOutRun implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $run)
    {
        $this->onQueue(Line::Runs->value);
    }

    public function handle(): void
    {
        $run = Run::query()->find($this->run);
        if ($run !== null) {
            Kinds::of($run)->carrier()->carryOut($run);
            ReckonStanding::begin($run->workload_id);
        }
    }
}
