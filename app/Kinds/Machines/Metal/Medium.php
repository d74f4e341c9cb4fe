<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Instance;
use App\Line\LineKey;
use Kaiseki\Core\Metal\KernelModules;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Exception\ProcessFailedException;
use Symfony\Component\Process\Process;

/**
 * The recovery medium: a Linux kernel with the common drivers, a few ordinary programs out of Debian's packages (bin/medium-packages), and
 * resources/medium/init, which speaks to this desk and to no other.
 */
final readonly class Medium
{
    private const BUSES = [
        'virtio_pci', 'virtio_blk', 'virtio_scsi', 'ata_piix', 'ahci', 'nvme', 'sd_mod', 'sr_mod', 'usb_storage', 'uas', 'xhci_pci',
        'ehci_pci', 'uhci_hcd', 'mpt3sas', 'megaraid_sas', 'smartpqi', 'aacraid', 'hpsa', 'vmw_pvscsi', 'mmc_block', 'sdhci_pci',
    ];

    private const CARDS = [
        'virtio_net', 'e1000', 'e1000e', 'igb', 'igc', 'ixgbe', 'i40e', 'ice', 'r8169', 'tg3', 'bnx2', 'bnxt_en', 'mlx4_en', 'mlx5_core',
        'vmxnet3', '8139cp', 'hv_netvsc',
    ];

    /** What XFS counts with is asked for as soon as that is loaded. */
    private const OTHERS = [
        'crc32c_generic', 'crc32c_intel', 'ext4', 'xfs', 'vfat', 'nls_cp437', 'nls_ascii', 'nls_iso8859_1', 'isofs', 'efivarfs',
        'qemu_fw_cfg', 'hid_generic', 'usbhid', 'atkbd', 'i8042', 'dm_mod', 'hv_storvsc', 'af_packet',
    ];

    private const PROGRAMS = [
        'usr/bin/openssl', 'sbin/sfdisk', 'sbin/wipefs', 'sbin/mkswap', 'sbin/mke2fs', 'sbin/e2fsck', 'sbin/mkfs.xfs', 'sbin/xfs_repair',
        'sbin/lvm', 'bin/tar', 'usr/bin/sha256sum', 'usr/bin/find', 'usr/bin/getfattr',
        // What a night kit's sheets need, which it runs without a desk.
        'bin/dash', 'bin/dd', 'usr/bin/setfattr', 'sbin/blockdev',
    ];

    private const LIBRARIES = ['lib/x86_64-linux-gnu', 'usr/lib/x86_64-linux-gnu'];

    /** Of what it speaks with a desk: from 2 on it waits for further orders, and knows how to change what it brought. */
    public const VERSION = 2;

    /** By which it knows what it was started from. */
    private const LABEL = 'KAISEKI';

    private const OPTIONS = 'console=tty0 console=ttyS0,115200 quiet panic=60';

    /** @param  string  $packages  the folder with what was unpacked */
    public function __construct(private string $packages)
    {
    }

    /**
     * Of the packages that this desk has; they are fetched where they are not there yet.
     *
     * @throws CannotMakeMedium if they cannot be had
     */
    public static function here(): self
    {
        $packages = Instance::folder('medium').'/packages';
        $fetch = new Process([base_path('bin/medium-packages'), $packages]);
        $fetch->setTimeout(null)->run();
        $fetch->isSuccessful() || throw CannotMakeMedium::because(
            'The packages that a medium is made of could not be fetched: '.trim(mb_scrub($fetch->getErrorOutput())),
        );

        return new self($packages);
    }

    /**
     * @param  string  $desk  HOST:PORT
     * @param  string|null  $code  of one enrolment, for a medium that asks for none
     * @return list<string> files that were written, in the folder
     *
     * @throws CannotMakeMedium
     */
    public function make(string $folder, MediumFormat $format, string $desk, ?string $code = null): array
    {
        $files = new Filesystem;
        $work = "$folder/.medium-work";
        $files->remove($work);
        $files->mkdir("$work/root");
        try {
            $this->root("$work/root", $desk, $code);
            $archive = ['--format', 'newc', '--uid', '0', '--gid', '0', '--gzip', '-cf', "$work/initrd"];
            $this->run(['bsdtar', ...$archive, '-C', "$work/root", '.']);
            $kernel = $this->one('boot/vmlinuz-*');
            if ($format === MediumFormat::Netboot) {
                $files->copy($kernel, "$folder/medium.vmlinuz", true);
                $files->rename("$work/initrd", "$folder/medium.initrd", true);

                return ['medium.vmlinuz', 'medium.initrd'];
            }
            $files->copy($kernel, "$work/vmlinuz");
            $name = $format === MediumFormat::Iso ? 'medium.iso' : 'medium.img';
            $format === MediumFormat::Iso ? $this->iso($work, "$work/$name") : $this->stick($work, "$work/$name");
            $files->rename("$work/$name", "$folder/$name", true);

            return [$name];
        } finally {
            $files->remove($work);
        }
    }

    /**
     * @param  list<string>  $files  that were made, in the folder
     * @return list<array{file: string, bytes: int, sha256: string}>
     */
    public static function told(string $folder, array $files): array
    {
        return array_map(fn (string $file): array => [
            'file' => $file,
            'bytes' => (int) filesize("$folder/$file"),
            'sha256' => (string) hash_file('sha256', "$folder/$file"),
        ], $files);
    }

    /** @return list<string> "PACKAGE VERSION", what it is made from */
    public function madeFrom(): array
    {
        return array_values(array_filter(explode("\n", (string) @file_get_contents("{$this->packages}/packages"))));
    }

    private function root(string $root, string $desk, ?string $code): void
    {
        $files = new Filesystem;
        $files->mkdir(array_map(fn (string $folder): string => "$root/$folder", [
            'bin', 'sbin', 'usr/bin', 'usr/sbin', 'etc/kaiseki', 'etc/ssl', 'dev', 'proc', 'sys', 'run', 'tmp', 'mnt', 'lib/modules',
            'lib/x86_64-linux-gnu', 'lib64',
        ]));
        $this->put($this->one('bin/busybox'), "$root/bin/busybox");
        foreach (explode("\n", trim($this->run([$this->one('bin/busybox'), '--list']))) as $applet) {
            $applet === 'busybox' || symlink('busybox', "$root/bin/$applet");
        }
        foreach (self::PROGRAMS as $program) {
            $name = basename($program);
            // Where the medium's init looks for it.
            $to = match (true) {
                str_contains($program, 'sbin/') => "usr/sbin/$name",
                str_starts_with($program, 'bin/') => $program,
                default => "usr/bin/$name",
            };
            $this->program($this->one($program), "$root/$to", $root);
        }
        $here = resource_path('medium');
        $this->put("$here/init", "$root/init");
        $this->put("$here/udhcpc", "$root/etc/kaiseki/udhcpc");
        $files->copy("$here/lvm.conf", "$root/etc/lvm/lvm.conf");
        $this->put(resource_path('line/line.sh'), "$root/etc/kaiseki/line");
        $files->dumpFile("$root/etc/kaiseki/desk.pem", LineKey::publicPem());
        $files->dumpFile("$root/etc/kaiseki/desk.crt", LineKey::certificate());
        $files->dumpFile("$root/etc/kaiseki/version", self::VERSION.' of '.gmdate('Y-m-d\TH:i\Z')."\n");
        $files->dumpFile("$root/etc/ssl/openssl.cnf", '');
        $files->copy($this->one('etc/mke2fs.conf'), "$root/etc/mke2fs.conf");
        $desk === '' || $files->dumpFile("$root/etc/kaiseki/desk", $desk);
        $code === null || $files->dumpFile("$root/etc/kaiseki/code", $code);
        $this->drivers("$root/lib/modules");
    }

    /** With the libraries that its loader names for it. */
    private function program(string $from, string $to, string $root): void
    {
        $loader = $this->one('lib/x86_64-linux-gnu/ld-linux-x86-64.so.2');
        $libraries = implode(':', array_map(fn (string $folder): string => "{$this->packages}/$folder", self::LIBRARIES));
        $needed = $this->run([$loader, '--inhibit-cache', '--library-path', $libraries, '--list', $from]);
        preg_match_all('/ => (\S+)/', $needed, $found);
        foreach ($found[1] as $library) {
            str_starts_with($library, $this->packages) || throw CannotMakeMedium::because(
                basename($from).' needs '.basename($library).', which is in none of the packages of the medium.',
            );
            $this->put($library, "$root/lib/x86_64-linux-gnu/".basename($library));
        }
        $this->put($loader, "$root/lib64/".basename($loader));
        is_link($to) && unlink($to);
        $this->put($from, $to);
    }

    private function drivers(string $folder): void
    {
        $modules = new KernelModules(dirname($this->one('lib/modules/*/kernel')));
        $order = $modules->order([...self::BUSES, ...self::CARDS, ...self::OTHERS]);
        foreach ($order as $name => $file) {
            copy($file, "$folder/$name.ko");
        }
        (new Filesystem)->dumpFile("$folder/order", implode("\n", array_keys($order))."\n");
    }

    /** A disc: isolinux by BIOS, a FAT image with a loader by UEFI (El Torito, and "isohybrid" so that a stick takes it too). */
    private function iso(string $work, string $iso): void
    {
        $files = new Filesystem;
        $files->mkdir(["$work/disc/isolinux"]);
        $this->esp("$work/disc/efi.img", $work);
        foreach (['vmlinuz', 'initrd'] as $name) {
            $files->copy("$work/$name", "$work/disc/$name");
        }
        $files->copy($this->one('usr/lib/ISOLINUX/isolinux.bin'), "$work/disc/isolinux/isolinux.bin");
        $files->copy($this->one('usr/lib/syslinux/modules/bios/ldlinux.c32'), "$work/disc/isolinux/ldlinux.c32");
        $files->dumpFile("$work/disc/isolinux/isolinux.cfg", self::biosLoader());
        $this->run([
            'xorriso', '-as', 'mkisofs', '-quiet', '-V', self::LABEL, '-r', '-J', '-b', 'isolinux/isolinux.bin', '-c', 'isolinux/boot.cat',
            '-no-emul-boot', '-boot-load-size', '4', '-boot-info-table', '-eltorito-alt-boot', '-e', 'efi.img', '-no-emul-boot',
            '-isohybrid-mbr', $this->one('usr/lib/ISOLINUX/isohdpfx.bin'), '-isohybrid-gpt-basdat', '-o', $iso, "$work/disc",
        ]);
    }

    /** A stick: one EFI system partition, from which syslinux starts by BIOS and systemd-boot by UEFI. */
    private function stick(string $work, string $image): void
    {
        $part = "$work/part";
        $this->esp($part, $work);
        $this->blank($image, (int) filesize($part) + (2 << 20));
        $size = intdiv((int) filesize($part), 512);
        $this->run(['sfdisk', '--quiet', $image], "label: gpt\nstart=2048, size=$size, type=uefi, attrs=LegacyBIOSBootable\n");
        $this->run(['dd', "if=$part", "of=$image", 'bs=1M', 'seek=1', 'conv=notrunc', 'status=none']);
        $this->run([$this->one('usr/bin/syslinux'), '-t', (string) (1 << 20), '--install', $image]);
        $code = $this->one('usr/lib/SYSLINUX/gptmbr.bin');
        $this->run(['dd', "if=$code", "of=$image", 'bs=440', 'count=1', 'conv=notrunc', 'status=none']);
    }

    /** A FAT file system with the kernel, what it starts with, and loaders. */
    private function esp(string $file, string $work): void
    {
        $files = new Filesystem;
        $bytes = (int) filesize("$work/vmlinuz") + (int) filesize("$work/initrd");
        $mebibytes = intdiv($bytes, 1 << 20) + 6;
        $this->blank($file, $mebibytes << 20);
        $this->run(['mformat', '-i', $file, '-T', (string) ($mebibytes * 2048), '-h', '1', '-s', '1', '-v', self::LABEL, '::']);
        foreach (['EFI', 'EFI/BOOT', 'loader', 'loader/entries'] as $folder) {
            $this->run(['mmd', '-i', $file, "::/$folder"]);
        }
        $files->dumpFile("$work/syslinux.cfg", self::biosLoader());
        $files->dumpFile("$work/loader.conf", "timeout 0\ndefault medium\n");
        $files->dumpFile("$work/medium.conf", "title Recovery medium\nlinux /vmlinuz\ninitrd /initrd\noptions ".self::OPTIONS."\n");
        foreach ([
            "$work/vmlinuz" => 'vmlinuz', "$work/initrd" => 'initrd', "$work/syslinux.cfg" => 'syslinux.cfg',
            $this->one('usr/lib/systemd/boot/efi/systemd-bootx64.efi') => 'EFI/BOOT/BOOTX64.EFI',
            "$work/loader.conf" => 'loader/loader.conf', "$work/medium.conf" => 'loader/entries/medium.conf',
        ] as $from => $to) {
            $this->run(['mcopy', '-i', $file, $from, "::/$to"]);
        }
    }

    private static function biosLoader(): string
    {
        return "SERIAL 0 115200\nPROMPT 0\nTIMEOUT 0\nDEFAULT medium\nLABEL medium\n LINUX /vmlinuz\n INITRD /initrd\n APPEND ".
            self::OPTIONS."\n";
    }

    private function blank(string $file, int $bytes): void
    {
        $opened = fopen($file, 'w+b');
        $opened !== false && ftruncate($opened, $bytes) && fclose($opened)
            || throw CannotMakeMedium::because("$file cannot be written: is there room for it?");
    }

    private function put(string $from, string $to): void
    {
        copy($from, $to) || throw CannotMakeMedium::because("$to cannot be written: is there room for it?");
        chmod($to, 0755);
    }

    private function one(string $pattern): string
    {
        return (glob("{$this->packages}/$pattern") ?: [])[0] ?? throw CannotMakeMedium::because(
            "What the medium is made of is not all here: {$this->packages} has no $pattern. Remove that folder, and try again.",
        );
    }

    /** @param  list<string>  $command */
    private function run(array $command, string $input = ''): string
    {
        $path = ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'MTOOLSRC' => '/dev/null', 'MTOOLS_SKIP_CHECK' => '1'];
        try {
            return (new Process($command, '/', $path, $input, 300))->mustRun()->getOutput();
        } catch (ProcessFailedException $failed) {
            $said = trim($failed->getProcess()->getErrorOutput());
            throw CannotMakeMedium::because("{$command[0]} could not do its part of the medium: ".mb_strcut(mb_scrub($said), 0, 300));
        }
    }
}
