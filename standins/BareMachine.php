<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use RuntimeException;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * A physical machine in small: a QEMU process with disks, a network card and a power button. Nobody reaches into it as a hypervisor would:
 * what is known of it is what it sends over its network, and what stands on its screen.
 */
final class BareMachine
{
    private ?Process $process = null;

    /** Where its disks and its screen lie. */
    public readonly string $folder;

    /**
     * @param  array<string, int>  $disks  serial number => bytes, in the order of its cables
     * @param  string  $firmware  bios or uefi
     * @param  string  $controller  virtio, ide, ahci or nvme
     * @param  string  $card  as QEMU names network cards
     * @param  int  $sector  bytes of a sector of its disks
     * @param  string  $domain  of the network that it is on
     * @param  array<string, list<int>>  $broken  serial number => sectors of 512 bytes that cannot be written
     * @param  list<string>  $within  a command that runs it
     */
    public function __construct(
        string $folder,
        private readonly array $disks,
        private readonly string $firmware = 'bios',
        private readonly string $controller = 'virtio',
        private readonly string $card = 'virtio-net-pci',
        private readonly int $memory = 384,
        private readonly int $sector = 512,
        private readonly string $domain = '',
        private readonly array $broken = [],
        private readonly array $within = [],
    ) {
        $this->folder = $folder;
        (new Filesystem)->mkdir($folder);
        foreach ($disks as $serial => $bytes) {
            if (! is_file($this->disk((string) $serial))) {
                $file = fopen($this->disk((string) $serial), 'w+b');
                $file !== false && ftruncate($file, $bytes) && fclose($file)
                    || throw new RuntimeException("The disk {$this->disk((string) $serial)} cannot be made.");
            }
        }
        $firmware !== 'uefi' || copy('/usr/share/OVMF/OVMF_VARS_4M.fd', "$folder/firmware");
    }

    /** What is on a disk, byte by byte. */
    public function disk(string $serial): string
    {
        return "{$this->folder}/$serial.disk";
    }

    /**
     * @param  string|null  $medium  a folder with medium.vmlinuz and medium.initrd, or the image of a stick or disc; null for its own disks
     * @param  array<string, string>  $types  what somebody would type at the medium: desk, code
     * @param  int|null  $port  of this machine, that leads to its port 80
     */
    public function powerOn(?string $medium = null, array $types = [], ?int $port = null): void
    {
        (new Filesystem)->remove("{$this->folder}/screen");
        $this->process = new Process($this->command($medium, "file:{$this->folder}/screen", $types, $port));
        $this->process->setTimeout(null)->start();
    }

    /**
     * @param  string  $screen  where what it says goes: file:PATH, or stdio
     * @param  array<string, string>  $types
     * @return list<string> what runs it
     */
    public function command(?string $medium, string $screen, array $types = [], ?int $port = null): array
    {
        return [
            ...$this->within,
            'qemu-system-x86_64', '-nodefaults', '-no-reboot', '-machine', $this->controller === 'ahci' ? 'q35' : 'pc', '-cpu', 'max',
            '-accel', 'tcg', '-m', (string) $this->memory, '-display', 'none', '-monitor', 'none',
            '-serial', $screen, ...$this->cables(), ...self::started($medium),
            '-netdev', 'user,id=net'.($this->domain === '' ? '' : ",domainname={$this->domain}").
                ($port === null ? '' : ",hostfwd=tcp:127.0.0.1:$port-:80"),
            '-device', "{$this->card},netdev=net,romfile=",
            ...array_merge(...array_map(
                fn (string $what, string $said): array => ['-fw_cfg', "name=opt/kaiseki/$what,string=$said"],
                array_keys($types),
                $types,
            )),
        ];
    }

    public function isOn(): bool
    {
        return $this->process?->isRunning() === true;
    }

    /** As if somebody pulled the plug. */
    public function cutPower(): void
    {
        $this->process?->stop(0, SIGKILL);
    }

    /** What stands on its screen. */
    public function screen(): string
    {
        $screen = is_file("{$this->folder}/screen") ? (string) file_get_contents("{$this->folder}/screen") : '';

        return $screen.($this->process?->getErrorOutput() ?? '');
    }

    /** @return list<string> */
    private function cables(): array
    {
        $arguments = [];
        if ($this->firmware === 'uefi') {
            $arguments = [
                '-drive', 'if=pflash,format=raw,readonly=on,file=/usr/share/OVMF/OVMF_CODE_4M.fd',
                '-drive', "if=pflash,format=raw,file={$this->folder}/firmware",
            ];
        }
        foreach (array_keys($this->disks) as $number => $serial) {
            $device = match ($this->controller) {
                'ide', 'ahci' => "ide-hd,bus=ide.$number",
                'nvme' => 'nvme',
                default => 'virtio-blk-pci',
            };
            array_push(
                $arguments,
                '-drive', $this->drive((string) $serial).",if=none,id=d$number",
                '-device', "$device,drive=d$number,serial=$serial,bootindex=".($number + 2).
                    ($this->sector === 512 ? '' : ",logical_block_size={$this->sector},physical_block_size={$this->sector}"),
            );
        }

        return $arguments;
    }

    private function drive(string $serial): string
    {
        if (! isset($this->broken[$serial])) {
            return "file={$this->disk($serial)},format=raw";
        }
        $drive = "driver=raw,file.driver=blkdebug,file.image.driver=file,file.image.filename={$this->disk($serial)}";
        foreach ($this->broken[$serial] as $number => $sector) {
            $rule = "file.inject-error.$number";
            $drive .= ",$rule.event=write_aio,$rule.iotype=write,$rule.errno=5,$rule.sector=$sector";
        }

        return "$drive,werror=report,rerror=report";
    }

    /** @return list<string> */
    private static function started(?string $medium): array
    {
        return match (true) {
            $medium === null => [],
            is_dir($medium) => [
                '-kernel', "$medium/medium.vmlinuz", '-initrd', "$medium/medium.initrd",
                '-append', 'console=ttyS0 quiet mitigations=off no_timer_check tsc=reliable',
            ],
            str_ends_with($medium, '.iso') => ['-drive', "file=$medium,format=raw,if=none,id=m,media=cdrom,readonly=on",
                '-device', 'ide-cd,drive=m,bootindex=1'],
            default => ['-device', 'qemu-xhci', '-drive', "file=$medium,format=raw,if=none,id=m,readonly=on",
                '-device', 'usb-storage,drive=m,bootindex=1,removable=on'],
        };
    }
}
