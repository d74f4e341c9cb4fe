<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\KeptStanding;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldBeUniqueUntilProcessing;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** Looks at how a workload stands, and keeps it for the pages. */
final class ReckonStanding implements ShouldBeUniqueUntilProcessing, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct(public readonly int $workload)
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function uniqueId(): string
    {
        return (string) $this->workload;
    }

    /** Has it looked at again, since something may have changed; whoever sees the page meanwhile is told so. */
    public static function begin(int ...$workloads): void
    {
        foreach ($workloads as $id) {
            DB::table('standings')->upsert(
                ['workload_id' => $id, 'wanted_at' => now()->format('Y-m-d H:i:s.u')],
                ['workload_id'],
                ['wanted_at'],
            );
            self::dispatch($id);
        }
    }

    public function handle(): void
    {
        $workload = Workload::query()->find($this->workload);
        if ($workload !== null) {
            KeptStanding::reckon($workload);
        }
    }
}
