<?php

declare(strict_types=1);

use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Intake\LookAtKernels;
use App\Models\BackupSet;
use App\Models\Store;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

// What is said, before anything is written, of a machine that its firmware would not start. Disks by sfdisk and mtools.

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    $this->assumed = fn (string $workload, string ...$more): string => implode(' ', $this->kaiseki(
        'restore', $workload, '--at=2099-01-01T00:00:00Z', '--whole', '--name=again', '--on=ketch', '--dry-run', '--json', ...$more,
    )->json()['assumed']);
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
});

it('says of a disk without code, or without a loader, that its firmware finds nothing to start', function (): void {
    Machine::withFiles($this);
    expect(($this->assumed)('planner'))->toContain('the first sector of disk has no code to start')
        ->and(($this->assumed)('planner', '--firmware=uefi'))->toContain('no EFI system partition with /EFI/BOOT/BOOTX64.EFI')
        ->not->toContain('no code');
});

it('says nothing of one that has both, and names another controller', function (): void {
    $raw = $this->scratch()->file('disk.raw', '');
    $file = fopen($raw, 'r+b');
    ftruncate($file, 12 << 20);
    fclose($file);
    (new Process(['sfdisk', '--quiet', $raw], null, null, "label: gpt\nstart=2048, size=20480, type=U\n"))->mustRun();
    Disks::write($raw, [['17', 0, 400]], 'raw');
    $tools = fn (string ...$command) => (new Process($command, null, ['MTOOLSRC' => '/dev/null', 'MTOOLS_SKIP_CHECK' => '1']))->mustRun();
    $tools('mformat', '-i', "$raw@@1M", '-T', '20480', '-v', 'BOOT', '::');
    foreach (['efi', 'efi/Boot'] as $folder) {
        $tools('mmd', '-i', "$raw@@1M", "::/$folder");
    }
    $tools('mcopy', '-i', "$raw@@1M", $this->scratch()->file('loader', 'MZ'), '::/efi/Boot/bootx64.efi');
    $this->host->machine('kelp', disk: $raw);
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $this->kaiseki('protect', 'kelp', '--machine=ketch:kelp', '--level=full');
    expect(($this->assumed)('kelp'))->toBe('')
        ->and(($this->assumed)('kelp', '--firmware=uefi'))->toBe('')
        ->and(($this->assumed)('kelp', '--bus=nvme'))
        ->toBe('disk is connected by nvme there, and was by virtio: its system must have drivers for that.');
});

/** A machine with a kernel on its disk, and what that starts with. */
function withKernel(mixed $test, string $how): void
{
    $version = '6.1.0-90-amd64';
    $test->scratch()->file("tree/boot/vmlinuz-$version", 'MZ');
    $test->scratch()->file('tree/boot/vmlinuz-5.10.0-7-amd64', 'MZ');
    $builtIn = "kernel/drivers/virtio/virtio_pci.ko\nkernel/drivers/scsi/sd_mod.ko\n";
    $test->scratch()->file("tree/lib/modules/$version/modules.builtin", $builtIn);
    foreach (['block/virtio_blk.ko', 'ata/ata_piix.ko.xz', 'net/virtio_net.ko'] as $module) {
        $test->scratch()->file("init/usr/lib/modules/$version/kernel/drivers/$module", random_bytes(900));
    }
    $test->scratch()->file('early/kernel/x86/microcode/GenuineIntel.bin', random_bytes(3000));
    $cpio = function (string $folder, string ...$more) use ($test): string {
        $file = $test->scratch()->at("$folder.cpio"); // to a pipe it would be filled up with zeros
        (new Process(['bsdtar', '-cf', $file, '--format', 'newc', ...[...$more, '.']], $test->scratch()->at($folder)))->mustRun();

        return (string) file_get_contents($file);
    };
    $initramfs = match ($how) {
        'plain' => $cpio('init'),
        'broken' => substr($cpio('init', '--zstd'), 0, 700),
        default => $cpio('early').str_repeat("\0", 512).$cpio('init', "--$how"),
    };
    $test->scratch()->file("tree/boot/initrd.img-$version", $initramfs);
    $images = $test->scratch()->folder('images');
    $raw = $test->scratch()->at('disk.raw');
    (new Process(['mke2fs', '-q', '-t', 'ext4', '-d', $test->scratch()->at('tree'), $raw, '16M']))->mustRun();
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $raw, "$images/crew.disk.full.20261001T020000Z.qcow2");
    Queue::fake();
    $test->kaiseki('adopt', $images, '--as=crew', '--kind=machine');
    Queue::assertPushed(LookAtKernels::class, function (LookAtKernels $job): bool {
        $job->handle();

        return true;
    });
}

it('says of a kernel that has no driver for how the disk is connected there that it would not find it', function (string $how): void {
    withKernel($this, $how);
    $told = ($this->assumed)('crew', '--bus=nvme');
    expect($told)->toContain('disk is connected by nvme there, and the kernel 6.1.0-90-amd64 has no nvme, built in or in its initramfs')
        ->and(($this->assumed)('crew', '--bus=virtio'))->not->toContain('kernel')
        ->and(($this->assumed)('crew', '--bus=ide'))->not->toContain('kernel')
        ->and(($this->assumed)('crew', '--bus=ide', '--firmware=uefi'))->toContain('has no ahci, built in')
        ->and(($this->assumed)('crew', '--bus=scsi'))->toContain('has no virtio_scsi, built in');
})->with(['plain', 'gzip', 'zstd', 'xz', 'lz4']);

it('says nothing of an initramfs that cannot be read', function (): void {
    withKernel($this, 'broken');
    $kernels = KernelDrivers::ofSet(BackupSet::query()->sole());
    expect(array_column($kernels, 'unread', 'version')['6.1.0-90-amd64'])->toContain('damaged')
        ->and(($this->assumed)('crew', '--bus=nvme'))->not->toContain('and the kernel');
});
