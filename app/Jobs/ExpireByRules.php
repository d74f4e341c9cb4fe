<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\Expiry;
use App\Kinds\Kinds;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** Deletes what the rules no longer keep, of workloads for which that is to be done by itself, and what a killed process left undeleted. */
final class ExpireByRules implements ShouldQueue
{
    use Queueable;

    public function handle(): void
    {
        $ids = DB::table('keep_rules')
            ->where('every_night', true)
            ->pluck('workload_id')
            ->merge(DB::table('expiries')->whereNull('done_at')->pluck('workload_id'))
            ->unique();
        foreach (Workload::query()->whereIn('id', $ids)->get() as $workload) {
            Kinds::goOn($workload, 'Expiring', function () use ($workload): void {
                $expiry = new Expiry($workload);
                $expiry->plan->expiring === [] ? $expiry->goOn() : $expiry->carryOut(null);
            });
        }
    }
}
