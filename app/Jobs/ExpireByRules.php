<?php

declare(strict_types=1);

namespace App\Jobs;

use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** Has what the rules no longer keep deleted, where that is to be done by itself, and what a killed process left undeleted. */
final class ExpireByRules implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        $ruled = DB::table('keep_rules')->where('every_night', true)->pluck('workload_id');
        $begun = DB::table('expiries')->whereNull('done_at')->pluck('workload_id');
        foreach ($ruled->merge($begun)->unique() as $id) {
            ExpireWorkload::dispatch((int) $id);
        }
    }
}
