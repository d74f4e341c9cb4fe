<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\Settling;

/**
 * A job of QEMU that moves the bytes of one disk (docs/interop/live-block-operations of QEMU). What cannot be read or written has it wait,
 * and not end: a job that ended and is kept so that one can read why has QEMU 7.2 end itself when it is asked about its nodes.
 */
final readonly class DiskJob
{
    /** Times that it is asked whether it has ended, at a hundredth of a second. */
    private const ENDS = 3000;

    public function __construct(private Qmp $qmp, private string $id)
    {
    }

    /** @return Settling|null null if nobody has begun it, or it is over */
    public function seen(): ?Settling
    {
        foreach ($this->qmp->call('query-block-jobs') as $job) {
            if (is_array($job) && ($job['device'] ?? '') === $this->id) {
                $failure = match ($job['io-status'] ?? 'ok') {
                    'ok' => null,
                    'nospace' => 'its storage is full',
                    default => 'it cannot be read where it is served, or written to its storage',
                };
                $isReady = ($job['ready'] ?? false) === true;

                return new Settling((int) ($job['offset'] ?? 0), (int) ($job['len'] ?? 0), $failure === null, $failure, $isReady);
            }
        }

        return null;
    }

    /** At another rate; and on, if it waits. */
    public function goOn(Settling $seen, int $bytesASecond): void
    {
        $this->qmp->call('block-job-set-speed', ['device' => $this->id, 'speed' => $bytesASecond]);
        $seen->isAtWork || $this->qmp->call('block-job-resume', ['device' => $this->id]);
    }

    /** Ends it where it is. */
    public function stop(): void
    {
        try {
            $this->qmp->call('block-job-cancel', ['device' => $this->id, 'force' => true]);
        } catch (HypervisorFailure) {
            return; // it is over
        }
    }

    /** @throws HypervisorFailure if it does not end */
    public function untilOver(): void
    {
        for ($i = 0; $i < self::ENDS; $i++) {
            if ($this->seen() === null) {
                return;
            }
            usleep(10_000);
        }
        throw HypervisorFailure::because('what moves a disk does not end');
    }
}
