<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/**
 * Disks of a machine that runs, kept as they were in one instant: what the machine writes over is copied aside first (blockdev-backup
 * with sync=none into an image over the disk), and that image is served. Bitmaps of what changes begin and end in the same instant
 * ("Dirty Bitmaps and Incremental Backup", docs/interop/bitmaps of QEMU).
 */
final class HeldMoment
{
    private const JOB = 'kaiseki-job-';

    private const NODE = 'kaiseki-moment-';

    /** Times that it is asked whether a job has ended, at a hundredth of a second. */
    private const ENDS = 3000;

    /** @var array<string, string> disk => image that takes what is written over */
    private array $images = [];

    /** @var array<string, string> disk => its node in the machine */
    private array $nodes = [];

    /** @var array<string, list<string>> disk => marks before that were ended */
    private array $ended = [];

    /** Why its file systems were not at rest. */
    public ?string $unrest = null;

    /** Only while something is asked: whoever else has something to say to the machine waits for that. */
    private Qmp $qmp;

    private function __construct(private readonly QemuProcess $process, private readonly string $mark)
    {
        $this->qmp = $process->qmp();
    }

    /**
     * @param  array<string, string>  $disks  disk => its image, beside which there is room
     * @param  array<string, int>  $sizes
     * @param  GuestAgent|null  $agent  who brings its file systems to rest for that instant
     */
    public static function begin(
        QemuProcess $process,
        array $disks,
        array $sizes,
        string $mark,
        string $socket,
        ?GuestAgent $agent,
    ): self {
        $moment = new self($process, $mark);
        $moment->clear(array_keys($disks)); // of one that was cut off
        try {
            $moment->prepare($disks, $sizes);
            $take = fn (): array => $moment->qmp->call('transaction', ['actions' => $moment->actions()]);
            $agent === null ? $take() : $moment->unrest = $agent->atRest($take);
            $moment->qmp->call('nbd-server-start', ['addr' => ['type' => 'unix', 'data' => ['path' => $socket]]]);
            foreach (array_keys($disks) as $disk) {
                $bitmaps = array_map(fn (string $name): array => ['node' => $moment->nodes[$disk], 'name' => $name], $moment->ended[$disk]);
                $moment->qmp->call('block-export-add', [
                    'type' => 'nbd', 'id' => self::NODE.$disk, 'node-name' => self::NODE.$disk, 'name' => $disk, 'bitmaps' => $bitmaps,
                ]);
            }
        } catch (HypervisorFailure $failure) {
            $moment->undo(false);
            throw $failure;
        }
        unset($moment->qmp);

        return $moment;
    }

    /**
     * @param  array<string, string>  $disks
     * @param  array<string, int>  $sizes
     */
    private function prepare(array $disks, array $sizes): void
    {
        foreach ($disks as $disk => $image) {
            $this->images[$disk] = "$image.moment";
            $this->nodes[$disk] = $this->process->node($this->qmp, $disk);
            DiskImage::create("$image.moment", $sizes[$disk]);
            $this->ended[$disk] = $this->marks($disk);
            $this->qmp->call('blockdev-add', [
                'driver' => 'qcow2', 'node-name' => self::NODE.$disk, 'backing' => $this->nodes[$disk],
                'file' => ['driver' => 'file', 'filename' => "$image.moment"],
            ]);
        }
    }

    /** @return list<array<string, mixed>> all of one instant */
    private function actions(): array
    {
        $actions = [];
        foreach (array_keys($this->images) as $disk) {
            $node = $this->nodes[$disk];
            $actions[] = ['type' => 'blockdev-backup', 'data' => [
                'job-id' => self::JOB.$disk, 'device' => $node, 'target' => self::NODE.$disk, 'sync' => 'none',
            ]];
            foreach ($this->ended[$disk] as $mark) {
                $actions[] = ['type' => 'block-dirty-bitmap-disable', 'data' => ['node' => $node, 'name' => $mark]];
            }
            $actions[] = ['type' => 'block-dirty-bitmap-add', 'data' => [
                'node' => $node, 'name' => $this->mark, 'persistent' => true, 'granularity' => DiskImage::GRANULARITY,
            ]];
        }

        return $actions;
    }

    /** @return list<string> of a disk that can be believed; the others go */
    private function marks(string $disk): array
    {
        $marks = DiskImage::marksIn($this->qmp, $this->nodes[$disk]);
        foreach (array_keys($marks, false, true) as $mark) {
            $this->qmp->call('block-dirty-bitmap-remove', ['node' => $this->nodes[$disk], 'name' => $mark]);
        }

        return array_map(strval(...), array_keys($marks, true, true));
    }

    /** @return array<string, DiskDoor> */
    public function doors(string $socket): array
    {
        $doors = [];
        foreach (array_keys($this->images) as $disk) {
            $doors[$disk] = new DiskDoor($socket, $disk);
        }

        return $doors;
    }

    /** @return array<string, string> disk => the mark that ended with this moment */
    public function since(): array
    {
        return array_map(fn (array $marks): string => end($marks) ?: '', array_filter($this->ended));
    }

    public function end(bool $isKept): void
    {
        $this->qmp = $this->process->qmp();
        $this->undo($isKept);
        unset($this->qmp);
    }

    private function undo(bool $isKept): void
    {
        $this->clear(array_keys($this->images));
        foreach ($this->ended as $disk => $marks) {
            $node = $this->nodes[$disk];
            foreach ($marks as $mark) {
                if (! $isKept) {
                    $this->qmp->quietly('block-dirty-bitmap-enable', ['node' => $node, 'name' => $mark]);
                    $this->qmp->quietly('block-dirty-bitmap-merge', ['node' => $node, 'target' => $mark, 'bitmaps' => [$this->mark]]);
                } else {
                    $this->qmp->quietly('block-dirty-bitmap-remove', ['node' => $node, 'name' => $mark]);
                }
            }
            $isKept || $this->qmp->quietly('block-dirty-bitmap-remove', ['node' => $node, 'name' => $this->mark]);
        }
        array_map(unlink(...), array_filter($this->images, is_file(...)));
    }

    /** @param  list<string>  $disks */
    private function clear(array $disks): void
    {
        $this->qmp->quietly('nbd-server-stop');
        foreach ($disks as $disk) {
            $this->qmp->quietly('block-export-del', ['id' => self::NODE.$disk, 'mode' => 'hard']);
            $this->qmp->quietly('block-job-cancel', ['device' => self::JOB.$disk, 'force' => true]);
        }
        foreach ($disks as $disk) {
            for ($i = 0; $i < self::ENDS && $this->isAtWork(self::JOB.$disk); $i++) {
                usleep(10_000);
            }
            $this->qmp->quietly('blockdev-del', ['node-name' => self::NODE.$disk]);
        }
    }

    private function isAtWork(string $job): bool
    {
        return in_array($job, array_column($this->qmp->call('query-block-jobs'), 'device'), true);
    }
}
