<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Symfony\Component\Process\Process;

/** Images of machines that are off, or as they were in a snapshot, served by NBD for as long as this object lives. */
final class ImageDoors
{
    /** @var array<string, Process> name of a door => the process that serves it */
    private array $doors = [];

    /**
     * @param  string  $folder  of their sockets, which says who may come
     * @param  string  $run  a folder of nobody else
     */
    public function __construct(private readonly string $folder, private readonly string $run)
    {
    }

    public function __destruct()
    {
        $this->closeAll();
    }

    /**
     * @param  int  $limit  bytes that the image may grow to
     * @param  string|null  $mark  to be asked for
     * @param  string|null  $snapshot  to have the image as it was in that one, whoever else writes to it meanwhile
     */
    public function open(string $image, bool $toWrite, int $limit, ?string $mark, ?string $snapshot = null): DiskDoor
    {
        $door = self::name();
        $ready = "{$this->run}/$door.ready";
        $process = new Process([
            'setpriv',
            '--pdeathsig',
            'TERM',
            '--',
            'env',
            '--ignore-signal=XFSZ',
            'prlimit',
            "--fsize=$limit",
            '--',
            'qemu-nbd',
            "--socket={$this->folder}/$door",
            "--pid-file=$ready",
            '--persistent',
            '--discard=unmap',
            ...$toWrite ? [] : ['--read-only'],
            ...$mark === null ? [] : ["--bitmap=$mark"],
            ...$snapshot === null ? ['--format=qcow2', $image] : [
                "--load-snapshot=snapshot.name=$snapshot",
                '--image-opts',
                'driver=qcow2,file.driver=file,file.locking=off,file.filename='.str_replace(',', ',,', $image),
            ],
        ]);
        $process->setTimeout(null);
        $this->doors[$door] = $process;
        $before = umask(0117);
        $process->start();
        umask($before);
        while (! file_exists($ready)) {
            // which is written once it listens
            $process->isRunning() || throw HypervisorFailure::because('the disk cannot be opened: '.DiskImage::said($process));
            usleep(10_000);
        }

        return new DiskDoor("{$this->folder}/$door");
    }

    public static function name(): string
    {
        return 'd'.substr(bin2hex(random_bytes(4)), 1);
    }

    /** What was written through a door is flushed before it is closed. */
    public function close(string $door): void
    {
        if (isset($this->doors[$door])) {
            $this->doors[$door]->stop(60, SIGTERM);
            unset($this->doors[$door]);
            @unlink("{$this->folder}/$door");
            @unlink("{$this->run}/$door.ready");
        }
    }

    public function closeAll(): void
    {
        foreach (array_keys($this->doors) as $door) {
            $this->close($door);
        }
    }
}
