<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Run;
use App\Runs\Carriers;
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
        if ($run !== null) {
            Carriers::of($run)->carryOut($run);
        }
    }
}
