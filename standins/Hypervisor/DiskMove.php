<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\Settling;

/**
 * A disk of a machine that runs is copied to another image as a whole, while it runs (blockdev-mirror). What is written meanwhile is
 * written to both; until they change over, the first is the machine's, and the copy is worth nothing.
 */
final readonly class DiskMove
{
    private const JOB = 'kaiseki-move-';

    private Qmp $qmp;

    private DiskJob $job;

    public function __construct(private QemuProcess $process, private string $disk, private string $image, private int $size)
    {
        $this->qmp = $process->qmp();
        $this->job = new DiskJob($this->qmp, self::JOB.$disk);
    }

    /** Begins, or goes on at another rate. */
    public function go(int $bytesASecond): void
    {
        $seen = $this->job->seen();
        if ($seen !== null) {
            $this->job->goOn($seen, $bytesASecond);

            return;
        }
        $from = $this->process->node($this->qmp, $this->disk);
        $to = self::other($from);
        $this->removeNode($to); // of one that was cut off
        DiskImage::create($this->image, $this->size);
        $this->qmp->call('blockdev-add', [
            'driver' => 'qcow2', 'node-name' => $to, 'discard' => 'unmap', 'file' => ['driver' => 'file', 'filename' => $this->image],
        ]);
        $this->qmp->call('blockdev-mirror', [
            'job-id' => self::JOB.$this->disk, 'device' => $from, 'target' => $to, 'sync' => 'full', 'speed' => $bytesASecond,
            'copy-mode' => 'write-blocking', 'on-source-error' => 'stop', 'on-target-error' => 'stop',
        ]);
    }

    /** A disk has one of two nodes, and changes between them. */
    private static function other(string $node): string
    {
        return str_starts_with($node, 'moved-') ? 'disk-'.substr($node, 6) : 'moved-'.substr($node, 5);
    }

    /** @return Settling|null null if nobody has begun, or it is over */
    public function job(): ?Settling
    {
        $seen = $this->job->seen();
        $done = $seen === null || $seen->total === 0 ? 0 : (int) ($this->size * ($seen->done / $seen->total));

        return $seen === null ? null : new Settling($done, $this->size, $seen->isAtWork, $seen->failure, $seen->isReady);
    }

    /** Ends it; nothing of it stays. */
    public function stop(): void
    {
        $this->job->stop();
        $this->job->untilOver();
        $this->removeNode(self::other($this->process->node($this->qmp, $this->disk)));
    }

    /**
     * The machine stands still while this is done: both images are the same then, and on the disk, so that whichever is taken for the
     * machine's is right. Marks go along. Of one that was cut off what is left is done.
     *
     * @param  callable(): void  $keep  writes down that the copy is the machine's
     */
    public function changeOver(callable $keep): void
    {
        $this->qmp->call('stop');
        try {
            $seen = $this->job->seen();
            if ($seen !== null) {
                $seen->isReady || throw HypervisorFailure::because("not all of the disk {$this->disk} has come");
                $this->takeMarks();
                $keep();
                $this->qmp->call('block-job-complete', ['device' => self::JOB.$this->disk]);
                $this->job->untilOver();
            }
        } finally {
            $this->qmp->call('cont');
        }
        $left = self::other($this->process->node($this->qmp, $this->disk));
        foreach ([$left, "source-{$this->disk}", "served-{$this->disk}"] as $node) {
            $this->removeNode($node);
        }
    }

    /** The node of the copy. */
    private function copy(): string
    {
        foreach ($this->qmp->call('query-named-block-nodes', ['flat' => true]) as $node) {
            $isCopy = is_array($node) && ($node['file'] ?? '') === $this->image && ($node['drv'] ?? '') === 'qcow2';
            if ($isCopy) {
                return (string) ($node['node-name'] ?? '');
            }
        }
        throw HypervisorFailure::because("the copy of the disk {$this->disk} is not open");
    }

    /** What the machine has written since a mark is told by the copy too. */
    private function takeMarks(): void
    {
        $to = $this->copy();
        $from = self::other($to);
        foreach (DiskImage::marksIn($this->qmp, $from) as $mark => $isSound) {
            if ($isSound) {
                $this->qmp->quietly('block-dirty-bitmap-remove', ['node' => $to, 'name' => $mark]);
                $this->qmp->call('block-dirty-bitmap-add', [
                    'node' => $to, 'name' => $mark, 'persistent' => true, 'granularity' => DiskImage::GRANULARITY,
                ]);
                $this->qmp->call('block-dirty-bitmap-merge', [
                    'node' => $to, 'target' => $mark, 'bitmaps' => [['node' => $from, 'name' => $mark]],
                ]);
            }
        }
    }

    private function removeNode(string $node): void
    {
        $this->qmp->quietly('blockdev-del', ['node-name' => $node]);
    }
}
