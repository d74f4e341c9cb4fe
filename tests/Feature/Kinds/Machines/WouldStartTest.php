<?php

declare(strict_types=1);

use App\Models\Store;
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
