<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use App\Jobs\Line;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Looks through a machine in an annex; the pages show what was found. */
final class ScanInAnnex implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $scan)
    {
        $this->onQueue(Line::Checks->value);
    }

    public function handle(): void
    {
        $scan = AnnexScan::query()->find($this->scan);
        $scan?->state === AnnexScan::WAITING && (new ScanOfMachine($scan))->carryOut();
    }
}
