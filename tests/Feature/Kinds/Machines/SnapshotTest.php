<?php

declare(strict_types=1);

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Snapshots\KeepSnapshot;
use App\Kinds\Machines\Snapshots\SnapshotRule;
use App\Kinds\Machines\Snapshots\TakeSnapshots;
use App\Models\BackupSet;
use App\Models\Role;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Instant;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

/*
 * Snapshots within the images of a real QEMU; what its disks held then is compared with what comes back.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $raw = $this->scratch()->at('disk.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $raw, '4M');
    Disks::write($raw, [['17', 0, 700_000], ['18', 3 << 20, 65_536]], 'raw');
    $this->host->machine('kelp', disk: $raw, data: $raw);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $this->told(0, 'protect', 'kelp', '--machine=ketch:kelp', '--level=full');
    $this->full = BackupSet::query()->sole();
    $this->bytes = (string) file_get_contents($raw);
    $this->write = function (string $disk, int $byte, int $from, int $length): void {
        $this->host->guestWrites($disk, $byte, $from, $length);
    };
    $this->content = function (string $set, string $disk): string {
        $to = $this->scratch()->folder('out-'.bin2hex(random_bytes(3)));
        $at = Instant::ofMicroseconds(BackupSet::query()->where('name', $set)->sole()->instant)->iso();
        $this->told(0, 'restore', 'kelp', "--at=$at", "--to=$to", '--format=raw');

        return (string) file_get_contents("$to/kelp.$disk.raw");
    };
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

it('keeps a machine that runs as it is, all disks in one instant, and makes a set of that later', function (): void {
    $this->hypervisor->start('kelp');
    sleep(1); // a second is as fine as names of sets are
    ($this->write)('disk', 33, 65_536, 65_536);
    $then = substr_replace($this->bytes, str_repeat('!', 65_536), 65_536, 65_536);
    $snapshot = $this->told(0, 'snapshot', 'take', 'kelp')['snapshot'];
    ($this->write)('disk', 35, 65_536, 200_000);
    ($this->write)('data', 36, 0, 4096);
    expect(array_column($this->told(0, 'snapshot', 'list', 'kelp')['snapshots'], 'name'))->toBe([$snapshot])
        ->and(fn () => $this->hypervisor->takeSnapshot('kelp', $snapshot))->toThrow(HypervisorFailure::class, 'is kept already');

    $set = $this->told(0, 'snapshot', 'keep', 'kelp', $snapshot)['set'];
    $made = BackupSet::query()->where('name', $set)->sole();
    expect($made->base_id)->toBe($this->full->id)
        ->and(intdiv($made->instant, 1_000_000))->toBe($this->hypervisor->machine('kelp')->snapshots[$snapshot]->at)
        ->and(implode(' ', $made->remarks))->toContain("made of the snapshot $snapshot")
        ->and(($this->content)($set, 'disk') === $then)->toBeTrue()
        ->and(($this->content)($set, 'data') === $this->bytes)->toBeTrue();
    // A chain goes forward: what was kept before the newest set makes none any more.
    expect($this->told(3, 'snapshot', 'keep', 'kelp', $snapshot)['error'])->toContain('is newer than the snapshot');

    // The set after it has all that was written since, told by the mark of the one before.
    sleep(1);
    $next = $this->told(0, 'protect', 'kelp', '--level=incr')['set'];
    $now = substr_replace($then, str_repeat('#', 200_000), 65_536, 200_000);
    expect(($this->content)($next, 'disk') === $now)->toBeTrue()
        ->and(($this->content)($next, 'data') === substr_replace($this->bytes, str_repeat('$', 4096), 0, 4096))->toBeTrue();
    $this->told(0, 'snapshot', 'drop', 'kelp', $snapshot);
    $this->told(2, 'snapshot', 'drop', 'kelp', $snapshot);
    expect(TrailEntry::query()->where('what', 'like', "The snapshot $snapshot of kelp was %")->count())->toBe(2);
    $this->hypervisor->stop('kelp', true);
    $image = glob("{$this->host->folder}/storages/fast/kelp.disk.qcow2")[0];
    expect(Disks::qemu('qemu-img', 'snapshot', '-l', $image))->toBe('')
        ->and(Disks::qemu('qemu-img', 'check', $image))->toContain('No errors');
});

it('keeps one that is off, and what is written over stays readable as it was', function (): void {
    sleep(1);
    $snapshot = $this->told(0, 'snapshot', 'take', 'kelp')['snapshot'];
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'disk', str_repeat('x', 1 << 20));
    $this->hypervisor->start('kelp');
    ($this->write)('data', 99, 0, 1 << 20);
    $set = $this->told(0, 'snapshot', 'keep', 'kelp', $snapshot)['set'];
    expect(($this->content)($set, 'disk') === $this->bytes)->toBeTrue()
        ->and(($this->content)($set, 'data') === $this->bytes)->toBeTrue();
    $this->hypervisor->stop('kelp', true);
    expect(fn () => $this->hypervisor->takeSnapshot('kelp', 'no/name'))->toThrow(HypervisorFailure::class)
        ->and(fn () => $this->hypervisor->beginMoment('kelp', ['disk'], 'm', 'gone'))
        ->toThrow(HypervisorFailure::class, 'no snapshot gone');
});

it('takes them by rule, keeps so many, leaves those of others, and says once why it cannot', function (): void {
    $log = $this->scratch()->at('ready');
    $command = '--command-after='.json_encode(['/bin/sh', '-c', "echo ready >> $log"]);
    $this->told(0, 'snapshot', 'rule', 'kelp', '--every=5', '--keep=3', $command);
    $this->hypervisor->takeSnapshot('kelp', 'of-somebody');
    foreach (range(1, 5) as $i) {
        $this->travel(5)->minutes();
        // The stand-in's clock is that of this machine: what it kept before is made as old as it would be.
        $file = "{$this->host->folder}/machines/kelp.json";
        $kept = json_decode((string) file_get_contents($file), true);
        $kept['snapshots'] = array_map(fn (array $one): array => ['at' => $one['at'] - 300] + $one, $kept['snapshots']);
        file_put_contents($file, json_encode($kept));
        $this->travelBack();
        (new TakeSnapshots)->handle();
        (new TakeSnapshots)->handle(); // not due
        sleep(1);
    }
    $names = array_keys($this->hypervisor->machine('kelp')->snapshots);
    expect(count(array_filter($names, fn (string $name): bool => str_starts_with($name, 'kaiseki-'))))->toBe(3)
        ->and($names)->toContain('of-somebody')
        ->and(file_get_contents($log))->toBe(str_repeat("ready\n", 5));

    $this->hypervisor->delete('kelp');
    (new TakeSnapshots)->handle();
    (new TakeSnapshots)->handle();
    expect(SnapshotRule::query()->sole()->failure)->toContain('no machine kelp')
        ->and(TrailEntry::query()->where('what', 'like', 'No snapshot of kelp was taken%')->count())->toBe(1);
    $this->told(0, 'snapshot', 'rule', 'kelp', '--off');
    expect(SnapshotRule::query()->count())->toBe(0);
});

it('reckons how far back they reach', function (): void {
    // Common practice: one every 5 minutes with five kept reaches back 20 to 25 minutes.
    $told = $this->kaiseki('snapshot', 'rule', 'kelp', '--every=5', '--keep=5');
    expect($told->text)->toContain('they reach back 20 to 25 min');
    foreach ([['--every=0', '--keep=5'], ['--every=5', '--keep=51'], ['--every=x', '--keep=5'], ['--keep=5']] as $wrong) {
        $this->told(2, 'snapshot', 'rule', 'kelp', ...$wrong);
    }
    $this->told(2, 'snapshot', 'list', 'nobody');
    $this->told(2, 'snapshot', 'freeze', 'kelp');
    $this->told(2, 'snapshot', 'keep', 'kelp');
    expect(Workload::query()->count())->toBe(1);
});

it('is kept, and a set made of that, on the page of the machine', function (): void {
    $this->actingAs($this->person(Role::Operator));
    $page = '/hypervisors/'.HypervisorHost::query()->value('id').'/machines/kelp';
    $this->get($page)->assertOk()->assertSee('No snapshot of it is kept');
    sleep(1);
    $this->post("$page/snapshot")->assertRedirect("$page#snapshots")->assertSessionHasNoErrors();
    $name = (string) array_key_first($this->hypervisor->machine('kelp')->snapshots);
    $this->get($page)->assertOk()->assertSee('Make a set of it')->assertSee('at rest');
    $this->post("$page/snapshot", ['keep' => 'kaiseki-other'])->assertNotFound();
    Queue::fake();
    $this->post("$page/snapshot", ['keep' => $name])->assertSessionHasNoErrors();
    Queue::assertPushed(KeepSnapshot::class, fn (KeepSnapshot $job): bool => $job->snapshot === $name && $job->queue === 'sets');
    (new KeepSnapshot(Workload::query()->value('id'), $name, null))->handle();
    expect(BackupSet::query()->count())->toBe(2)
        ->and(TrailEntry::query()->where('what', 'like', "%was made of the snapshot $name.")->count())->toBe(1);
    $this->get($page)->assertDontSee('Make a set of it')->assertSee('a newer set stands for it');
    (new KeepSnapshot(Workload::query()->value('id'), $name, null))->handle();
    expect(TrailEntry::query()->where('what', 'like', "No set was made of the snapshot $name: %")->count())->toBe(1);

    $this->actingAs($this->person(Role::Auditor))->post("$page/snapshot")->assertForbidden();
    $this->actingAs($this->person(Role::Operator, ['elsewhere']))->post("$page/snapshot")->assertForbidden();
});
