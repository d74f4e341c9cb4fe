<?php

declare(strict_types=1);

use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\Store;
use Symfony\Component\Filesystem\Filesystem;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

/*
 * Machines whose images lie on tape, or in an object store: straight from there. What the disks held when the sets were made is compared.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $raw = $this->scratch()->at('disk.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $raw, '6M');
    Disks::write($raw, [['17', 0, 700_000], ['18', 3 << 20, 65_536]], 'raw');
    $this->host->machine('kelp', disk: $raw);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    foreach (['full', 'incr'] as $level) {
        $this->kaiseki('protect', 'kelp', '--machine=ketch:kelp', "--level=$level");
        $this->held = hash('sha256', HypervisorAtWork::content($this->hypervisor, 'kelp', 'disk'));
        Disks::write("{$this->host->folder}/storages/fast/kelp.disk.qcow2", [['5', 131_072, 65_536]]);
        sleep(1); // a second is as fine as names of sets are
    }
    $this->copyAll = function (string $to): void {
        foreach (BackupSet::query()->orderBy('instant')->pluck('name') as $set) {
            expect($this->kaiseki('copy', 'kelp', $set, "--to=$to")->code)->toBe(0);
        }
        (new Filesystem)->remove($this->scratch()->at('store/kelp'));
    };
    $this->restore = fn (string ...$more) => $this->kaiseki(
        'restore', 'kelp', '--at=2099-01-01T00:00:00Z', '--whole', '--name=again', '--on=ketch', '--json', ...$more,
    );
    $this->again = fn (): string => hash('sha256', HypervisorAtWork::content($this->hypervisor, 'again', 'disk'));
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
});

it('brings a machine back straight from tape, asks for the cartridge, and goes on when it has come', function (): void {
    $options = ['--kind=tape', '--cartridges=HV1,HV2', '--slots=1', '--capacity-mb=10'];
    $this->kaiseki('store-add', 'tapes', $this->scratch()->at('tapes'), ...$options);
    ($this->copyAll)('tapes');
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    $told = ($this->restore)('--no-wait');
    expect([$told->code, $told->json()['waits_for'] ?? null])->toBe([3, ['tapes/HV1']]);
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--arrived');
    $run = Run::query()->sole();
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure)->and(($this->again)())->toBe($this->held);
});

it('brings a machine back from an object store, reading no more of it than it needs', function (): void {
    $this->kaiseki('store-add', 'objects', $this->scratch()->at('objects'), '--kind=object', '--site=pier-nine');
    ($this->copyAll)('objects');
    $told = ($this->restore)();
    expect($told->code)->toBe(0, $told->text)->and(($this->again)())->toBe($this->held);
    // One file's worth: a point as an image, of which only the blocks of the chain are read.
    $out = $this->scratch()->at('out');
    $told = $this->kaiseki('restore', 'kelp', '--at=2099-01-01T00:00:00Z', "--to=$out", '--format=raw', '--json');
    expect($told->code)->toBe(0, $told->text)->and(hash_file('sha256', "$out/kelp.disk.raw"))->toBe($this->held);
});
