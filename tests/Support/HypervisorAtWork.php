<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;
use Kaiseki\StandIns\Hypervisor\Qmp;
use Symfony\Component\Process\Process;

/** A stand-in hypervisor as a process of its own, with the storages "fast" and "bulk" and the networks "harbour" and "office". */
final class HypervisorAtWork
{
    private readonly Process $process;

    public readonly string $folder;

    public function __construct(int $memory = 1024, int $slots = 3, int $fast = 1 << 30)
    {
        $this->folder = sys_get_temp_dir().'/kaiseki-vm-'.bin2hex(random_bytes(4));
        mkdir($this->folder);
        file_put_contents(
            "{$this->folder}/host.json",
            json_encode([
                'memory_mib' => $memory,
                'slots' => $slots,
                'storages' => ['fast' => $fast, 'bulk' => 1 << 32],
                'networks' => ['harbour', 'office'],
            ]),
        );
        $script = dirname(__DIR__, 2).'/bin/hypervisor-process';
        $this->process = new Process([PHP_BINARY, $script, $this->folder, (string) posix_getuid()]);
        $this->process->setTimeout(null);
        $this->process->start();
        while (! file_exists("{$this->folder}/api.sock") && $this->process->isRunning()) {
            usleep(10_000);
        }
    }

    /** A wire of its own to it. */
    public function open(): Hypervisor
    {
        return new RemoteHypervisor('test', $this->folder);
    }

    /** A machine that is off, whose disks hold what these raw images do. */
    public function machine(string $name, string ...$images): MachineSettings
    {
        $hypervisor = $this->open();
        $disks = [];
        foreach ($images as $disk => $image) {
            $disks[] = new DiskSettings((string) $disk, (int) filesize($image));
        }
        $settings = new MachineSettings($name, $disks);
        $hypervisor->create($settings, array_fill_keys(array_keys($images), 'fast'));
        foreach ($images as $disk => $image) {
            self::fill($hypervisor, $name, (string) $disk, (string) file_get_contents($image));
        }

        return $settings;
    }

    public static function fill(Hypervisor $hypervisor, string $name, string $disk, string $bytes, int $from = 0): void
    {
        $door = $hypervisor->openDisk($name, $disk, true);
        $to = NbdDisk::open($door);
        foreach (str_split($bytes, 1 << 20) as $piece) {
            trim($piece, "\0") === '' || $to->write($from, $piece);
            $from += strlen($piece);
        }
        $to->flush();
        $to->close();
        $hypervisor->closeDisk($door);
    }

    public static function content(Hypervisor $hypervisor, string $name, string $disk): string
    {
        $door = $hypervisor->openDisk($name, $disk, false);
        $from = NbdDisk::open($door);
        $bytes = $from->read(0, $from->size());
        $from->close();
        $hypervisor->closeDisk($door);

        return $bytes;
    }

    /** Writes to a disk of the one machine that runs, as that would itself. */
    public function guestWrites(string $disk, int $byte, int $from, int $length): void
    {
        $device = "/machine/peripheral/at-$disk/virtio-backend";
        Qmp::to((glob("{$this->folder}/run/*.qmp") ?: [''])[0])->call('human-monitor-command', [
            'command-line' => "qemu-io -d $device \"write -P $byte $from $length\"",
        ]);
    }

    /** @return list<string> command lines of what it began and that still runs */
    public function left(): array
    {
        $processes = new Process(['ps', '-eo', 'args', '--no-headers', '-ww']);
        $lines = explode("\n", $processes->mustRun()->getOutput());

        return array_values(
            array_filter($lines, fn (string $line): bool => str_contains($line, "{$this->folder}/") && str_contains($line, 'qemu')),
        );
    }

    /** Its machines go off first, which takes them long where others want the processors. */
    public function end(int $signal = SIGTERM): void
    {
        $this->process->stop(180, $signal);
    }

    public function remove(): void
    {
        $this->end();
        (new Process(['rm', '-rf', $this->folder]))->run();
    }

    public function said(): string
    {
        return $this->process->getErrorOutput();
    }
}
