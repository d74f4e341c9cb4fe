<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Snapshots;

use App\Jobs\Line;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Sets\CannotRegister;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Makes a set of a snapshot of a machine. */
final class KeepSnapshot implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $workload, public readonly string $snapshot, public readonly ?int $user)
    {
        $this->onQueue(Line::Sets->value);
    }

    public function handle(): void
    {
        $workload = Workload::query()->find($this->workload);
        if ($workload === null) {
            return; // it was let go meanwhile
        }
        try {
            $told = 'The set '.(new SourceSnapshots($workload))->keep($this->snapshot)->name." was made of the snapshot {$this->snapshot}.";
        } catch (CannotRegister|CannotBring $cannot) {
            $told = "No set was made of the snapshot {$this->snapshot}: {$cannot->getMessage()}";
        }
        TrailEntry::add($told, null, User::query()->find($this->user), workload: $workload);
    }
}
