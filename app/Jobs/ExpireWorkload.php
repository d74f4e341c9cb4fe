<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\Expiry;
use App\Kinds\Kinds;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Deletes what the rules of one workload no longer keep, or ends what a killed process left undeleted. */
final class ExpireWorkload implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    /** Seconds after which a killed one is begun again; two at once find each other by Expiry's own lock. */
    public int $uniqueFor = 3000;

    public function __construct(public readonly int $workload)
    {
        $this->onQueue(Line::Expiry->value);
    }

    public function uniqueId(): string
    {
        return (string) $this->workload;
    }

    public function handle(): void
    {
        $workload = Workload::query()->find($this->workload);
        if ($workload === null) {
            return;
        }
        Kinds::goOn($workload, 'Expiring', function () use ($workload): void {
            $expiry = new Expiry($workload);
            $expiry->plan->expiring === [] ? $expiry->goOn() : $expiry->carryOut(null);
        });
        ReckonStanding::begin($workload->id);
    }
}
