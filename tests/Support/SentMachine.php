<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\MachineRecord;
use Symfony\Component\Process\Process;

/** A machine as its agent sends it, in small: a folder with its files and what was written down of its disks, which are made for that. */
final class SentMachine
{
    public const ROOT = 49_152;

    public readonly string $tree;

    public readonly string $system;

    public readonly string $data;

    public function __construct(private readonly Scratch $scratch)
    {
        $this->tree = $scratch->folder('gate/tree');
        $this->system = $scratch->at('gate-system');
        $this->data = $scratch->at('gate-data');
        $this->files();
        $this->disks();
        $this->record();
    }

    private function files(): void
    {
        foreach ([
            'etc/hostname' => "gate\n", 'etc/fstab' => "LABEL=root / ext4 defaults 0 1\n", 'srv/odd $(reboot)/-rf ; *' => 'odd',
            'srv/database/tariffs' => 'tariffs', 'boot/efi/loader' => 'in the image', 'usr/bin/suid' => 'program',
        ] as $path => $content) {
            $this->scratch->file("gate/tree/$path", $content);
        }
        // What it starts with knows disks of NVMe alone.
        $modules = $this->scratch->folder('gate/initramfs/lib/modules/6.1.0-1/kernel/drivers/nvme/host');
        touch("$modules/nvme.ko");
        $this->scratch->file('gate/tree/boot/vmlinuz-6.1.0-1', 'kernel');
        $this->run(['bsdtar', '--format', 'newc', '--gzip', '-cf', "{$this->tree}/boot/initrd.img-6.1.0-1", '-C',
            $this->scratch->at('gate/initramfs'), '.']);
        chmod("{$this->tree}/usr/bin/suid", 04755);
        symlink('hostname', "{$this->tree}/etc/name");
        link("{$this->tree}/etc/hostname", "{$this->tree}/etc/twin");
        $this->run(['truncate', '-s', '3M', "{$this->tree}/srv/holes"]);
    }

    private function disks(): void
    {
        foreach ([[$this->system, '64M'], [$this->data, '20M']] as [$disk, $size]) {
            $this->run(['truncate', '-s', $size, $disk]);
        }
        $this->run(['sfdisk', '--quiet', $this->system], "label: gpt\nstart=2048, size=20480, type=U\nstart=22528, size=20480, type=S\n".
            'start='.self::ROOT.", name=root\n");
        foreach ([
            [2048, 20_480, ['mkfs.fat']], [22_528, 20_480, ['mkswap', '-q', '-L', 'rest']],
            [self::ROOT, 80_000, ['mke2fs', '-q', '-t', 'ext4', '-L', 'root']],
        ] as [$sector, $sectors, $command]) {
            $part = $this->scratch->at('part');
            $this->run(['truncate', '-s', (string) ($sectors * 512), $part]);
            $this->run([...$command, $part]);
            $this->run(['dd', "if=$part", "of={$this->system}", 'bs=512', "seek=$sector", 'conv=notrunc', 'status=none']);
        }
        $file = fopen($this->system, 'r+b');
        assert($file !== false);
        fwrite($file, str_repeat('code', 110));
        $this->run(['mke2fs', '-q', '-t', 'ext4', '-L', 'database', $this->data]);
    }

    private function record(): void
    {
        $folder = 'gate/tree/'.MachineRecord::FOLDER;
        $list = "kaiseki-machine 1\nfirmware uefi\nkernel 6.1.0-1\nunsupported dm-0 LVM-crew\n".
            "left-out /srv/spool/* sets_of_its_own\ndisk sda ".(64 << 20)." 512 SER-A\n".
            "volume sda.1 image /boot/efi\nvolume sda.2 swap\nvolume sda.3 files 1024,30000,20000,10000,9900 /\n".
            'disk sdb '.(20 << 20)." 512 SER-B\nvolume sdb files 1024,20000,19000,5000,4990 /srv/database\n";
        $this->scratch->file("$folder/machine", $list);
        foreach (['sda' => $this->system, 'sdb' => $this->data] as $name => $disk) {
            $bytes = fn (int $from, int $length): string => (string) file_get_contents($disk, false, null, $from, $length);
            $this->scratch->file("$folder/$name.begin", $bytes(0, 1 << 20));
            $this->scratch->file("$folder/$name.end", $bytes((int) filesize($disk) - 65_536, 65_536));
            foreach (LayoutReading::ofDisk($name, FileDisk::open($disk))->partitions as $one) {
                $this->scratch->file("$folder/".MachineRecord::key($name, $one->number).'.head', $bytes($one->start, 65_536));
            }
        }
        $image = gzencode((string) file_get_contents($this->system, false, null, 1 << 20, 10 << 20));
        $this->scratch->file("$folder/".MachineRecord::image('sda.1'), (string) $image);
        $this->scratch->file("$folder/".MachineRecord::ATTRIBUTES, "# file: etc/hostname\nuser.berth=0x6e696e65\n\n");
    }

    /** @param  list<string>  $command */
    private function run(array $command, string $input = ''): void
    {
        (new Process($command, null, ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin'], $input))->mustRun();
    }
}
