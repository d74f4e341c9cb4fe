<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Looks\KeptLook;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Has workloads and stores looked at again that nobody looked at for a while: copies vanish, and hosts fall silent, without a word. */
final class ReckonStale implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    private const MINUTES = 5;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        LookAtStores::dispatch();
        KeptLook::forgetOld();
        $stale = Workload::query()
            ->leftJoin('standings', 'standings.workload_id', '=', 'workloads.id')
            ->where(fn ($query) => $query->whereNull('reckoned_at')->orWhere('reckoned_at', '<', now()->subMinutes(self::MINUTES)))
            ->orderBy('reckoned_at')
            ->pluck('workloads.id');
        foreach ($stale as $id) {
            ReckonStanding::dispatch((int) $id);
        }
    }
}
