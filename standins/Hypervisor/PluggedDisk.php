<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** A disk that a machine gets, and gives back, while it runs (device_add and device_del of QMP): it only reads it. */
final readonly class PluggedDisk
{
    /** Times that it is asked whether the machine has let it go, at a tenth of a second. */
    private const ENDS = 300;

    private string $name;

    public function __construct(private QemuProcess $process, private string $serial)
    {
        $this->name = "plugged-$serial";
    }

    public function plug(string $image): void
    {
        $qmp = $this->process->qmp();
        $qmp->call('blockdev-add', [
            'driver' => 'qcow2', 'node-name' => $this->name, 'read-only' => true,
            'file' => ['driver' => 'file', 'filename' => $image],
        ]);
        try {
            $qmp->call('device_add', [
                'driver' => 'virtio-blk-pci', 'id' => $this->name, 'drive' => $this->name, 'serial' => $this->serial,
            ]);
        } catch (HypervisorFailure $failure) {
            $qmp->call('blockdev-del', ['node-name' => $this->name]);
            throw $failure;
        }
    }

    /** The machine is asked to let it go, and has to. */
    public function unplug(): void
    {
        $qmp = $this->process->qmp();
        for ($i = 0; $this->isPlugged($qmp); $i++) {
            $i < self::ENDS || throw HypervisorFailure::because('it does not let the disk go that was plugged in');
            $i % 50 !== 0 || $qmp->quietly('device_del', ['id' => $this->name]);
            usleep(100_000);
        }
        $qmp->quietly('blockdev-del', ['node-name' => $this->name]);
    }

    private function isPlugged(Qmp $qmp): bool
    {
        foreach ($qmp->call('query-block') as $device) {
            if (is_array($device) && in_array($this->name, explode('/', (string) ($device['qdev'] ?? '')), true)) {
                return true;
            }
        }

        return false;
    }
}
