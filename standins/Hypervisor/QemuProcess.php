<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\Beat;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Symfony\Component\Process\Process;

/**
 * One machine as a QEMU process, without acceleration. It outlives who began it: who it is stands in a file, and its command line is
 * compared before anything is done to it.
 */
final readonly class QemuProcess
{
    public const PROGRAM = 'qemu-system-x86_64';

    private const FIRMWARE = '/usr/share/OVMF/OVMF_';

    /** What a stand-in's process may not do. */
    public const SANDBOX = 'on,obsolete=deny,elevateprivileges=deny,spawn=deny,resourcecontrol=deny';

    /** The same for one with a card that is led to a line: each connection is a process in a session of its own. */
    private const SANDBOX_OF_LED = 'on,obsolete=deny,resourcecontrol=deny';

    /** Seconds in which who serves its disks may come again, and in which they are opened. */
    private const WAITS_FOR_SOURCE = 3600;

    private const OPENS_SOURCE = 20;

    /** @param  string  $base  with which the names of its sockets begin, and of what it says */
    private function __construct(private string $base, private string $name)
    {
    }

    /** @param  string  $folder  where it keeps its sockets and what it says */
    public static function of(string $folder, string $name): self
    {
        return new self("$folder/".substr(md5($name), 0, 8), $name);
    }

    /** That to which one of those files belongs. */
    public static function ofFile(string $file): self
    {
        $base = (string) preg_replace('/\.[a-z]+$/D', '', $file);

        return new self($base, basename($base));
    }

    public function pid(): ?int
    {
        $pid = (int) @file_get_contents("{$this->base}.pid");
        $line = $pid > 0 ? (string) @file_get_contents("/proc/$pid/cmdline") : '';

        return in_array("{$this->base}.pid", explode("\0", $line), true) || ($pid > 0 && $line === '' && self::isDying($pid)) ? $pid : null;
    }

    /**
     * One that was killed has no command line any more, and still holds its images for a moment: until the last of its threads has ended,
     * of which the first may be none but a name already (proc(5): state Z).
     */
    private static function isDying(int $pid): bool
    {
        $status = (string) @file_get_contents("/proc/$pid/status");
        $isOnlyName = str_contains($status, "\nState:\tZ") && count(glob("/proc/$pid/task/*") ?: []) < 2;

        return str_starts_with($status, "Name:\tqemu-system-x86\n") && ! $isOnlyName;
    }

    public function since(): ?int
    {
        return $this->pid() === null ? null : (int) @filemtime("{$this->base}.pid");
    }

    public function port(): ?int
    {
        return (int) @file_get_contents("{$this->base}.port") ?: null;
    }

    public function serial(): string
    {
        return self::endOf("{$this->base}.out");
    }

    /** As if it were typed there. Nobody stays connected: what it says goes into the file. */
    public function type(string $text): void
    {
        $line = @stream_socket_client("unix://{$this->base}.serial", timeout: 5);
        ($line !== false && fwrite($line, $text) === strlen($text)) ||
            throw HypervisorFailure::because("nothing can be typed at the serial line of {$this->name} now");
        fclose($line);
    }

    public function firmwareSaid(): string
    {
        return self::endOf("{$this->base}.firmware");
    }

    private static function endOf(string $file): string
    {
        clearstatcache(true, $file);

        return (string) @file_get_contents($file, false, null, max(0, (int) @filesize($file) - (1 << 20)));
    }

    /** What its threads ran and waited to be let run (Documentation/scheduler/sched-stats of Linux), and what its disks moved. */
    public function beat(): Beat
    {
        $wanted = 0;
        foreach (glob("/proc/{$this->pid()}/task/*/schedstat") ?: [] as $thread) {
            $fields = explode(' ', (string) @file_get_contents($thread));
            $wanted += (int) $fields[0] + (int) ($fields[1] ?? 0);
        }
        $moved = 0;
        foreach ($this->qmp()->call('query-blockstats') as $disk) {
            $stats = is_array($disk) ? $disk['stats'] ?? [] : [];
            $moved += (int) ($stats['rd_bytes'] ?? 0) + (int) ($stats['wr_bytes'] ?? 0);
        }

        return new Beat(microtime(true), $wanted / 1e9, $moved);
    }

    /**
     * @param  int  $mostBytes  none of its files becomes larger
     * @param  array<string, KeptAnnex>  $annexes  network => annex, of those that are one
     * @param  array<string, string>  $lines  network => where it leads, of those that do
     */
    public function start(KeptMachine $machine, int $mostBytes, array $annexes, array $lines = []): void
    {
        $settings = $machine->settings;
        array_map(unlink(...), glob("{$this->base}.*") ?: []);
        touch("{$this->base}.out");
        $cards = new QemuCards($this->base, $settings->name, $settings->cards, $annexes, $lines);
        $cards->port === null || file_put_contents("{$this->base}.port", (string) $cards->port);
        $this->run([
            'setsid',
            'env',
            '--ignore-signal=XFSZ',
            'prlimit',
            "--fsize=$mostBytes:unlimited",
            '--',
            self::PROGRAM,
            '-nodefaults',
            '-no-user-config',
            '-name',
            $this->name,
            '-machine',
            self::board($settings),
            '-accel',
            'tcg',
            '-cpu',
            'max',
            '-m',
            (string) $settings->memory,
            '-smp',
            (string) $settings->cores,
            '-display',
            'none',
            '-monitor',
            'none',
            '-device',
            'VGA',
            '-chardev',
            "socket,id=serial,path={$this->base}.serial,server=on,wait=off,logfile={$this->base}.out",
            '-serial',
            'chardev:serial',
            '-chardev',
            "file,id=firmware,path={$this->base}.firmware",
            '-device',
            'isa-debugcon,iobase=0x402,chardev=firmware',
            '-qmp',
            "unix:{$this->base}.qmp,server=on,wait=off",
            '-device',
            'virtio-serial-pci',
            '-chardev',
            "socket,id=agent,path={$this->agentSocket()},server=on,wait=off",
            '-device',
            'virtserialport,chardev=agent,name=org.qemu.guest_agent.0',
            '-sandbox',
            array_intersect_key($lines, array_flip($settings->networks())) === [] ? self::SANDBOX : self::SANDBOX_OF_LED,
            ...self::firmware($settings, $machine->variables()),
            ...self::disks($machine),
            ...$cards->arguments(),
            '-pidfile',
            "{$this->base}.pid",
        ]);
    }

    /**
     * Begins it in a session of its own, where it stays when who began it goes, and waits until it answers. It does not make itself a
     * daemon: its sandbox forbids that.
     *
     * @param  list<string>  $command
     */
    private function run(array $command): void
    {
        $process = new Process($command, '/');
        $process->setOptions(['create_new_console' => true]); // it is not ended with this object
        $process->setTimeout(null);
        $process->start();
        while (! file_exists("{$this->base}.qmp") && $process->isRunning()) {
            usleep(20_000);
            clearstatcache();
        }
        try {
            $this->qmp()->call('query-status'); // it listens before its disks are open
        } catch (HypervisorFailure) {
            $process->wait();
        }
        if (! $process->isRunning()) {
            $said = mb_strcut(mb_scrub(trim($process->getErrorOutput())), 0, 500);
            throw HypervisorFailure::because("{$this->name} did not start: $said");
        }
    }

    private static function board(MachineSettings $settings): string
    {
        return match (true) {
            $settings->isSecureBoot => 'q35,smm=on',
            $settings->firmware === Firmware::Uefi => 'q35',
            default => 'pc',
        };
    }

    /** @return list<string> */
    private static function firmware(MachineSettings $settings, string $variables): array
    {
        if ($settings->firmware === Firmware::Bios) {
            return [];
        }
        [$code, $fresh] = $settings->isSecureBoot ? ['CODE_4M.secboot.fd', 'VARS_4M.ms.fd'] : ['CODE_4M.fd', 'VARS_4M.fd'];
        is_file($variables) || copy(self::FIRMWARE.$fresh, $variables);

        return [
            ...$settings->isSecureBoot ? ['-global', 'driver=cfi.pflash01,property=secure,value=on'] : [],
            '-drive',
            'if=pflash,format=raw,readonly=on,file='.self::FIRMWARE.$code,
            '-drive',
            "if=pflash,format=raw,file=$variables",
        ];
    }

    /** @return list<string> */
    private static function disks(KeptMachine $machine): array
    {
        $settings = $machine->settings;
        $sources = $machine->sources();
        $scsi = array_filter($settings->disks, fn (DiskSettings $disk): bool => $disk->bus === Bus::Scsi) !== [];
        $arguments = $scsi ? ['-device', 'virtio-scsi-pci'] : [];
        $order = array_flip([...$settings->boot, ...array_diff($settings->diskNames(), $settings->boot)]);
        foreach ($settings->disks as $disk) {
            $node = [
                'driver' => 'qcow2',
                'node-name' => "disk-{$disk->name}",
                'discard' => 'unmap',
                'file' => ['driver' => 'file', 'filename' => $machine->image($disk->name)],
                'backing' => isset($sources[$disk->name]) ? "source-{$disk->name}" : null,
            ];
            $device = match ($disk->bus) {
                Bus::Virtio => 'virtio-blk-pci',
                Bus::Scsi => 'scsi-hd',
                Bus::Ide => 'ide-hd',
                Bus::Nvme => 'nvme',
            };
            $serial = substr($disk->name, 0, 20);
            foreach (isset($sources[$disk->name]) ? self::source($disk->name, $sources[$disk->name]) : [] as $below) {
                array_push($arguments, '-blockdev', json_encode($below, JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES));
            }
            array_push($arguments, '-blockdev', json_encode($node, JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES));
            array_push(
                $arguments,
                '-device',
                "$device,drive=disk-{$disk->name},id=at-{$disk->name},serial=$serial,bootindex=".($order[$disk->name] + 1),
            );
        }

        return $arguments;
    }

    /**
     * What is served elsewhere. Who serves it may go and come again: what is read meanwhile waits.
     *
     * @return list<array<string, mixed>> nodes, the lowest first
     */
    private static function source(string $disk, DiskDoor $door): array
    {
        return [
            [
                'driver' => 'nbd',
                'node-name' => "served-$disk",
                'server' => ['type' => 'unix', 'path' => $door->socket],
                'export' => $door->export,
                'read-only' => true,
                'reconnect-delay' => self::WAITS_FOR_SOURCE,
                'open-timeout' => self::OPENS_SOURCE,
            ],
            ['driver' => 'raw', 'node-name' => "source-$disk", 'read-only' => true, 'file' => "served-$disk"],
        ];
    }

    /** What is not connected is unplugged as soon as it runs. */
    public function unplug(MachineSettings $settings): void
    {
        foreach ($settings->cards as $i => $card) {
            $card->isConnected || $this->qmp()->call('set_link', ['name' => "card$i", 'up' => false]);
        }
    }

    public function powerDown(): void
    {
        $this->qmp()->call('system_powerdown');
    }

    /** At once, but what it had written is written. */
    public function end(): void
    {
        $pid = $this->pid();
        if ($pid === null) {
            return;
        }
        try {
            $this->qmp()->call('quit');
        } catch (HypervisorFailure) {
            posix_kill($pid, SIGTERM);
        }
        for ($i = 0; $i < 500; $i++) {
            if ($this->pid() === null) {
                return;
            }
            usleep(20_000);
        }
        posix_kill($pid, SIGKILL);
    }

    /** What the image of a disk is called in it now, while nothing moves it. */
    public function node(Qmp $qmp, string $disk): string
    {
        $nodes = array_column($qmp->call('query-named-block-nodes', ['flat' => true]), 'node-name');
        $nodes = array_values(array_intersect(["disk-$disk", "moved-$disk"], $nodes));
        if (count($nodes) === 1) {
            return $nodes[0];
        }
        foreach ($qmp->call('query-block') as $device) {
            $isMeant = is_array($device) && in_array("at-$disk", explode('/', (string) ($device['qdev'] ?? '')), true);
            if ($isMeant && isset($device['inserted']['node-name'])) {
                return (string) $device['inserted']['node-name'];
            }
        }
        throw HypervisorFailure::because("{$this->name} has no disk $disk now");
    }

    /** None of its files becomes larger from now on. */
    public function limit(int $mostBytes): void
    {
        $process = new Process(['prlimit', '--pid', (string) $this->pid(), "--fsize=$mostBytes:"]);
        $process->run() === 0 || throw HypervisorFailure::because("{$this->name} cannot be given room: ".DiskImage::said($process));
    }

    public function agentSocket(): string
    {
        return "{$this->base}.agent";
    }

    /** Who holds its file systems at rest. */
    public function restFile(): string
    {
        return "{$this->base}.rest";
    }

    /** Whether something in it listens at the agent's line. */
    public function hasAgent(): bool
    {
        foreach ($this->qmp()->call('query-chardev') as $line) {
            if (is_array($line) && ($line['label'] ?? '') === 'agent') {
                return ($line['frontend-open'] ?? false) === true;
            }
        }

        return false;
    }

    public function screen(): string
    {
        $file = "{$this->base}.png";
        $this->qmp()->call('screendump', ['filename' => $file, 'format' => 'png']);
        $png = (string) @file_get_contents($file);
        @unlink($file);

        return $png;
    }

    public function qmp(): Qmp
    {
        return Qmp::to("{$this->base}.qmp");
    }
}
