<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\SnapshotSeen;

/** Snapshots within the images of a machine's disks ("Internal snapshots", docs/interop/qcow2 of QEMU): all of one instant. */
final readonly class DiskSnapshots
{
    public function __construct(private KeptMachine $machine)
    {
    }

    public function take(string $snapshot): SnapshotSeen
    {
        $images = $this->machine->images();
        $images !== [] || throw HypervisorFailure::because('it has no disk');
        if ($this->machine->process()->pid() !== null) {
            return $this->ofRunning($snapshot, array_map(strval(...), array_keys($images)));
        }
        $taken = [];
        try {
            foreach ($images as $image) {
                DiskImage::snapshot($image, '-c', $snapshot);
                $taken[] = $image;
            }
        } catch (HypervisorFailure $failure) {
            array_map(fn (string $image) => DiskImage::snapshot($image, '-d', $snapshot), $taken);
            throw $failure;
        }

        return new SnapshotSeen(time(), false, null);
    }

    /** @param  list<string>  $disks */
    private function ofRunning(string $snapshot, array $disks): SnapshotSeen
    {
        $process = $this->machine->process();
        $unrest = null;
        try {
            $agent = GuestAgent::of($process);
        } catch (HypervisorFailure $failure) {
            [$agent, $unrest] = [null, $failure->getMessage()];
        }
        $qmp = $process->qmp(); // not before: the machine has one client at a time
        $actions = array_map(fn (string $disk): array => [
            'type' => 'blockdev-snapshot-internal-sync', 'data' => ['device' => $process->node($qmp, $disk), 'name' => $snapshot],
        ], $disks);
        $at = 0;
        $take = function () use ($qmp, $actions, &$at): void {
            $at = time();
            $qmp->call('transaction', ['actions' => $actions]);
        };
        $agent === null ? $take() : $unrest = $agent->atRest($take);

        return new SnapshotSeen($at, true, $unrest);
    }

    public function drop(string $snapshot): void
    {
        $process = $this->machine->process();
        if ($process->pid() === null) {
            array_map(fn (string $image) => DiskImage::snapshot($image, '-d', $snapshot), array_values($this->machine->images()));

            return;
        }
        $qmp = $process->qmp();
        foreach (array_keys($this->machine->images()) as $disk) {
            $qmp->call('blockdev-snapshot-delete-internal-sync', ['device' => $process->node($qmp, (string) $disk), 'name' => $snapshot]);
        }
    }
}
