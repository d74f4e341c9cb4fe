<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use Kaiseki\Core\Metal\KernelModules;
use RuntimeException;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * What a stand-in machine needs to be started: a Linux kernel, busybox and loaders for BIOS and UEFI, out of Debian's packages, which lie
 * unpacked in a folder and are installed nowhere (bin/guest-packages). Its own part is in standins/guest.
 */
final readonly class GuestSystem
{
    /** Drivers of every disk that a hypervisor may give it. */
    private const OF_DISKS = ['virtio_pci', 'virtio_blk', 'virtio_scsi', 'sd_mod', 'ata_piix'];

    /** Of volume groups, and of snapshots of their volumes. */
    private const OF_GROUPS = ['dm_mod', 'dm_snapshot'];

    /** Of its network card, its power button, the line to its agent, and what it starts from by UEFI. */
    private const OTHERS = ['virtio_net', 'evdev', 'button', 'virtio_console', 'vfat', 'nls_cp437', 'nls_ascii'];

    /** As Debian's packages have them. */
    private const TOOLS = [
        'bin/dash', 'bin/tar', 'bin/gzip', 'bin/dd', 'usr/bin/stat', 'usr/bin/openssl', 'usr/bin/find', 'usr/bin/xargs', 'usr/bin/getfattr',
        'usr/bin/sort', 'usr/bin/od', 'usr/bin/tr', 'usr/bin/cut', 'usr/bin/head', 'usr/bin/tail',
    ];

    private const LIBRARIES = ['lib/x86_64-linux-gnu', 'usr/lib/x86_64-linux-gnu'];

    /** @param  string  $packages  the folder with what was unpacked */
    public function __construct(private string $packages)
    {
    }

    /** Adds to a tree what makes it the root file system of a machine that can be started. */
    public function enter(string $root): void
    {
        $files = new Filesystem;
        $files->mkdir(array_map(fn (string $folder): string => "$root/$folder", [
            'bin', 'sbin', 'dev', 'proc', 'sys', 'run', 'tmp', 'root', 'var/lib', 'srv/cgi-bin', 'lib/modules', 'etc/acpi/PWRF',
        ]));
        $this->put($this->one('bin/busybox'), "$root/bin/busybox");
        foreach (explode("\n", trim($this->run([$this->one('bin/busybox'), '--list']))) as $applet) {
            is_link("$root/bin/$applet") || $applet === 'busybox' || symlink('busybox', "$root/bin/$applet");
        }
        $guest = __DIR__.'/guest';
        $this->put("$guest/init", "$root/sbin/init");
        $this->put("$guest/state", "$root/srv/cgi-bin/state");
        $this->put("$guest/power-off", "$root/etc/acpi/PWRF/00000080");
        $files->dumpFile("$root/var/lib/counter", "0\n");
        $this->agent($root);
        $this->drivers("$root/lib/modules", self::OTHERS);
    }

    /** What answers in it for what runs it. */
    private function agent(string $root): void
    {
        (new Filesystem)->mkdir(["$root/lib/x86_64-linux-gnu", "$root/lib64", "$root/usr/sbin"]);
        $this->program('usr/sbin/qemu-ga', $root);
    }

    /** Adds to such a tree the tools that a machine has whose sets come from inside: an ordinary shell, and GNU's. */
    public function equip(string $root): void
    {
        (new Filesystem)->mkdir(["$root/usr/bin", "$root/usr/local/sbin", "$root/etc/ssl", "$root/usr/lib/ssl"]);
        (new Filesystem)->dumpFile("$root/usr/lib/ssl/openssl.cnf", '');
        foreach (self::TOOLS as $tool) {
            $this->program($tool, $root);
        }
    }

    /** Adds to a tree what volume groups of LVM need: it has nobody else who makes their nodes. */
    public function group(string $root): void
    {
        (new Filesystem)->copy(dirname(__DIR__).'/resources/medium/lvm.conf', "$root/etc/lvm/lvm.conf");
        $this->program('sbin/lvm', $root);
    }

    /** With the libraries that its loader names for it; where it lies in its package. */
    private function program(string $path, string $root): void
    {
        $from = $this->one($path);
        $loader = $this->one('lib/x86_64-linux-gnu/ld-linux-x86-64.so.2');
        $libraries = implode(':', array_map(fn (string $folder): string => "{$this->packages}/$folder", self::LIBRARIES));
        $needed = $this->run([$loader, '--inhibit-cache', '--library-path', $libraries, '--list', $from]);
        preg_match_all('/ => (\S+)/', $needed, $found);
        foreach ($found[1] as $library) {
            $this->put($library, "$root/lib/x86_64-linux-gnu/".basename($library));
        }
        $this->put($loader, "$root/lib64/".basename($loader));
        is_link("$root/$path") && unlink("$root/$path"); // to busybox, which would be written over
        $this->put($from, "$root/$path");
    }

    /**
     * Makes a disk that has such a root file system one that starts: kernel and loaders on its first partition, which is there and has a
     * FAT file system.
     *
     * @param  int  $boot  where that partition begins, in bytes
     * @param  string  $uuid  of the root file system
     * @param  bool  $isGrouped  whether that lies on a volume group
     */
    public function makeBootable(string $disk, int $boot, string $uuid, bool $isGrouped = false): void
    {
        $work = "$disk.boot";
        $files = new Filesystem;
        $files->remove($work);
        $files->mkdir("$work/initramfs");
        $this->initramfs("$work/initramfs", "$work/initrd", $isGrouped);
        $options = "root=UUID=$uuid console=ttyS0 quiet mitigations=off no_timer_check panic=-1";
        $loader = "DEFAULT guest\nPROMPT 0\nLABEL guest\n LINUX /vmlinuz\n INITRD /initrd\n APPEND $options\n";
        $files->dumpFile("$work/syslinux.cfg", $loader);
        $files->dumpFile("$work/loader.conf", "timeout 0\ndefault guest\n");
        $files->dumpFile("$work/guest.conf", "title guest\nlinux /vmlinuz\ninitrd /initrd\noptions $options\n");
        $on = ['-i', "$disk@@$boot"];
        foreach (['EFI', 'EFI/BOOT', 'loader', 'loader/entries'] as $folder) {
            $this->run(['mmd', ...$on, "::/$folder"]);
        }
        $kernel = $this->one('boot/vmlinuz-*');
        foreach ([
            $kernel => 'vmlinuz', "$work/initrd" => 'initrd', "$work/syslinux.cfg" => 'syslinux.cfg',
            $this->one('usr/lib/systemd/boot/efi/systemd-bootx64.efi') => 'EFI/BOOT/BOOTX64.EFI',
            "$work/loader.conf" => 'loader/loader.conf', "$work/guest.conf" => 'loader/entries/guest.conf',
        ] as $from => $to) {
            $this->run(['mcopy', ...$on, $from, "::/$to"]);
        }
        $this->run([$this->one('usr/bin/syslinux'), '-t', (string) $boot, '--install', $disk]);
        $code = (string) file_get_contents($this->one('usr/lib/SYSLINUX/gptmbr.bin'));
        $file = fopen($disk, 'r+b');
        $file !== false && fwrite($file, $code) === strlen($code) && fclose($file)
            || throw new RuntimeException("The loader cannot be written to $disk.");
        $files->remove($work);
    }

    private function initramfs(string $folder, string $image, bool $isGrouped): void
    {
        $files = new Filesystem;
        $files->mkdir(array_map(fn (string $part): string => "$folder/$part", ['bin', 'dev', 'proc', 'sys', 'root', 'lib/modules']));
        $this->put($this->one('bin/busybox'), "$folder/bin/busybox");
        foreach (['sh', 'cat', 'mount', 'umount', 'insmod', 'usleep', 'findfs', 'ls', 'tr', 'poweroff', 'switch_root'] as $applet) {
            symlink('busybox', "$folder/bin/$applet");
        }
        $this->put(__DIR__.'/guest/initramfs-init', "$folder/init");
        $this->drivers("$folder/lib/modules", [...self::OF_DISKS, ...$isGrouped ? self::OF_GROUPS : []]);
        if ($isGrouped) {
            $files->mkdir(["$folder/lib/x86_64-linux-gnu", "$folder/lib64", "$folder/sbin", "$folder/run"]);
            $this->group($folder);
        }
        $this->run(['bsdtar', '--format', 'newc', '--uid', '0', '--gid', '0', '--gzip', '-cf', $image, '-C', $folder, '.']);
    }

    /** Adds to a tree the driver of one more file system. */
    public function reads(string $root, string $files): void
    {
        $this->drivers("$root/lib/modules", [...self::OTHERS, $files]);
    }

    /** @param  list<string>  $names */
    private function drivers(string $folder, array $names): void
    {
        $order = (new KernelModules(dirname($this->one('lib/modules/*/kernel'))))->order($names);
        foreach ($order as $name => $file) {
            copy($file, "$folder/$name.ko");
        }
        (new Filesystem)->dumpFile("$folder/order", implode("\n", array_keys($order))."\n");
        chmod("$folder/order", 0644);
    }

    private function put(string $from, string $to): void
    {
        copy($from, $to);
        chmod($to, 0755);
    }

    private function one(string $pattern): string
    {
        return (glob("{$this->packages}/$pattern") ?: [])[0] ?? throw new RuntimeException("{$this->packages} has no $pattern.");
    }

    /** @param  list<string>  $command */
    private function run(array $command): string
    {
        $path = ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'MTOOLSRC' => '/dev/null', 'MTOOLS_SKIP_CHECK' => '1'];

        return (new Process($command, '/', $path, null, 300))->mustRun()->getOutput();
    }
}
