<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\Settling;

/**
 * What a disk of a machine that runs still reads from elsewhere is brought into its own image, while it runs (block-stream). Once all is
 * there the image names nothing below it any more.
 */
final readonly class DiskStream
{
    private const JOB = 'kaiseki-settle-';

    private Qmp $qmp;

    public function __construct(private QemuProcess $process)
    {
        $this->qmp = $process->qmp();
    }

    /** Begins, or goes on at another rate. */
    public function go(string $disk, int $bytesASecond): void
    {
        $job = $this->jobOf($disk);
        $seen = $job->seen();
        $seen !== null ? $job->goOn($seen, $bytesASecond) : $this->qmp->call('block-stream', [
            'job-id' => self::JOB.$disk, 'device' => $this->process->node($this->qmp, $disk),
            'speed' => $bytesASecond, 'on-error' => 'stop',
        ]);
    }

    /** @return Settling|null null if nobody has begun, or it is over */
    public function job(string $disk): ?Settling
    {
        return $this->jobOf($disk)->seen();
    }

    /** Ends it where it is; what has come stays. */
    public function stop(string $disk): void
    {
        $this->jobOf($disk)->stop();
        $this->jobOf($disk)->untilOver();
    }

    private function jobOf(string $disk): DiskJob
    {
        return new DiskJob($this->qmp, self::JOB.$disk);
    }
}
