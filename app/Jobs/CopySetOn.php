<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\BackupSet;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Sets\CannotRegister;
use App\Sets\CopyOn;
use Carbon\CarbonImmutable;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Copies a set that was made by schedule to another store, over the lane, when that is allowed. */
final class CopySetOn implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    /** Seconds: for as long as it waits for its hour, and a night more. */
    public int $uniqueFor = 172800;

    public function __construct(public readonly int $set, public readonly int $store)
    {
        $this->onQueue(Line::Copies->value);
    }

    public function uniqueId(): string
    {
        return "{$this->set} {$this->store}";
    }

    /** The next time that the clock shows the hour; null for at once. */
    public static function notBefore(?string $from, string $zone): ?CarbonImmutable
    {
        if ($from === null) {
            return null;
        }
        $now = CarbonImmutable::now($zone);
        $at = $now->setTimeFromTimeString($from);

        return $at < $now ? $at->addDay() : $at;
    }

    public function handle(): void
    {
        $set = BackupSet::query()->with('copies.store', 'workload')->find($this->set);
        $store = Store::query()->find($this->store);
        if ($set === null || $store === null || CopyOn::isThere($set, $store)) {
            return;
        }
        try {
            CopyOn::make($set, $store);
        } catch (CannotRegister $cannot) {
            TrailEntry::add($cannot->getMessage(), null, null);
        }
        ReckonStanding::begin($set->workload_id);
    }
}
