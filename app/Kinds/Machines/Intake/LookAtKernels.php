<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Jobs\Line;
use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Disks\KernelSearch;
use App\Kinds\Machines\Disks\MachineTree;
use App\Models\BackupSet;
use App\Sets\Points;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\UnableToRead;

/** Looks with which drivers the kernels in a set of a machine start, so that it is known before where they would find no disk. */
final class LookAtKernels implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $set)
    {
        $this->onQueue(Line::Checks->value);
    }

    public function handle(): void
    {
        $set = BackupSet::query()->with('workload')->find($this->set);
        if ($set === null) {
            return; // it was let go meanwhile
        }
        $before = BackupSet::query()
            ->where('workload_id', $set->workload_id)
            ->where('instant', '<', $set->instant)
            ->orderByDesc('instant')
            ->first();
        $points = new Points($set->workload);
        try {
            $tree = new MachineTree($points, $points->sets[$set->id]);
            KernelDrivers::keep($set, (new KernelSearch($tree->readable(), $before === null ? [] : KernelDrivers::ofSet($before)))->find());
        } catch (UnableToRead) {
            return; // that it cannot be read is told where copies are read back
        } finally {
            $points->stores->release();
        }
    }
}
