<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use Closure;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;

/**
 * An archive on its way into a machine that runs, on a disk that is plugged into it for as long as it reads it: many times as fast as its
 * agent takes it. The disk is one of a machine that is made for that, and removed again.
 */
final readonly class PluggedArchive
{
    private const DISK = 'archive';

    private const SECTOR = 512;

    private const AT_ONCE = 1 << 20;

    /** By which the machine finds the disk among its others. */
    private string $serial;

    /** @param  string  $lender  the name of the machine that is made for that */
    public function __construct(private Hypervisor $hypervisor, private string $machine, private string $lender, int $run)
    {
        $this->serial = "kaiseki-$run";
    }

    /**
     * @param  resource  $archive
     * @param  int  $bytes  of it
     * @param  Closure(int): void  $tell  told of bytes that were written
     *
     * @throws HypervisorFailure if no disk can be plugged into it, or it does not see one: nothing is left of it
     */
    public function bring($archive, int $bytes, Inside $inside, string $to, Closure $tell): void
    {
        $this->remove(); // of one that was cut off
        try {
            $this->write($archive, $bytes, $tell);
            $this->hypervisor->plug($this->machine, $this->lender, self::DISK, $this->serial);
            $inside->copyPlugged($this->serial, $bytes, $to) || throw HypervisorFailure::because('it does not see a disk plugged into it');
        } finally {
            $this->remove();
        }
    }

    /**
     * @param  resource  $archive
     * @param  Closure(int): void  $tell
     */
    private function write($archive, int $bytes, Closure $tell): void
    {
        $size = intdiv($bytes + self::SECTOR - 1, self::SECTOR) * self::SECTOR;
        $storage = $this->hypervisor->room()->roomiest();
        if ($storage === null || $storage->free <= $size) {
            throw HypervisorFailure::because('no storage has room for a disk with it');
        }
        $settings = new MachineSettings($this->lender, [new DiskSettings(self::DISK, $size)]);
        $this->hypervisor->create($settings, [self::DISK => $storage->name]);
        $door = $this->hypervisor->openDisk($this->lender, self::DISK, true);
        $disk = NbdDisk::open($door);
        for ($at = 0; ($piece = (string) fread($archive, self::AT_ONCE)) !== ''; $at += strlen($piece)) {
            $disk->write($at, $piece);
            $tell(strlen($piece));
        }
        $disk->flush();
        $disk->close();
        $this->hypervisor->closeDisk($door);
    }

    private function remove(): void
    {
        $this->hypervisor->unplug($this->machine, $this->serial);
        $this->hypervisor->machine($this->lender) === null || $this->hypervisor->delete($this->lender);
    }
}
