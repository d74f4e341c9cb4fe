<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\Settling;

/**
 * What a disk of a machine that runs still reads from elsewhere is brought into its own image, while it runs (block-stream,
 * docs/interop/live-block-operations of QEMU). Once all is there the image names nothing below it any more.
 */
final readonly class DiskStream
{
    private const JOB = 'kaiseki-settle-';

    private Qmp $qmp;

    public function __construct(QemuProcess $process)
    {
        $this->qmp = $process->qmp();
    }

    /**
     * Begins, or goes on at another rate. What cannot be read or written has it wait, and not end: a job that ended and is kept so that
     * one can read why has QEMU 7.2 end itself when it is asked about its nodes.
     */
    public function go(string $disk, int $bytesASecond): void
    {
        $job = $this->job($disk);
        if ($job === null) {
            $this->qmp->call('block-stream', [
                'job-id' => self::JOB.$disk, 'device' => "disk-$disk", 'speed' => $bytesASecond, 'on-error' => 'stop',
            ]);

            return;
        }
        $this->qmp->call('block-job-set-speed', ['device' => self::JOB.$disk, 'speed' => $bytesASecond]);
        $job->isAtWork || $this->qmp->call('block-job-resume', ['device' => self::JOB.$disk]);
    }

    /** @return Settling|null null if nobody has begun, or it is over */
    public function job(string $disk): ?Settling
    {
        foreach ($this->qmp->call('query-block-jobs') as $job) {
            if (is_array($job) && ($job['device'] ?? '') === self::JOB.$disk) {
                $failure = match ($job['io-status'] ?? 'ok') {
                    'ok' => null,
                    'nospace' => 'its storage is full',
                    default => 'it cannot be read where it is served, or written to its storage',
                };

                return new Settling((int) ($job['offset'] ?? 0), (int) ($job['len'] ?? 0), $failure === null, $failure);
            }
        }

        return null;
    }

    /** Ends it where it is; what has come stays. */
    public function stop(string $disk): void
    {
        try {
            $this->qmp->call('block-job-cancel', ['device' => self::JOB.$disk]);
        } catch (HypervisorFailure) {
            return; // it is over
        }
    }
}
