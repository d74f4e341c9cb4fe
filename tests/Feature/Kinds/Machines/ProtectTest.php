<?php

declare(strict_types=1);

use App\Instance;
use App\Models\BackupSet;
use App\Models\Role;
use App\Models\Run;
use App\Models\SetSign;
use App\Models\Store;
use App\Models\Workload;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

/*
 * Sets of a machine at a real stand-in hypervisor. What qemu-img makes of the images is compared with what the machine's disk held at
 * that moment, b2sum checks the digests beside them.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->stamp = 0;
    $system = $this->scratch()->at('system.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $system, '6M');
    Disks::write($system, [['17', 0, 700_000], ['18', 3 << 20, 65_536]], 'raw');
    $data = $this->scratch()->at('data.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $data, '3M');
    Disks::write($data, [['34', 1 << 20, 300_000]], 'raw');
    $this->host->machine('kelp', system: $system, data: $data);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

/** Makes a set; a second is as fine as names of sets are. */
function protect(mixed $test, string ...$more): BackupSet
{
    while ($test->stamp === time()) {
        usleep(20_000);
    }
    $test->stamp = time();
    $answer = $test->kaiseki('protect', 'kelp', '--json', ...$more);
    expect([$answer->code, $answer->text])->toBe([0, $answer->text]);

    return BackupSet::query()->where('name', $answer->json()['set'])->firstOrFail();
}

/** @return array<string, string> disk => digest of what qemu-img makes of its image in a set */
function images(mixed $test, BackupSet $set): array
{
    $digests = [];
    $store = $test->scratch()->at('store/kelp');
    foreach ($set->copies as $copy) {
        $raw = $test->scratch()->at('theirs.raw');
        Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $test->scratch()->at("store/{$copy->path}"), $raw);
        $digests[explode('.', $copy->path)[1]] = hash_file('sha256', $raw);
    }
    expect($test->scratch()->run('sh', '-c', "cd $store && b2sum --length=256 --check --quiet {$set->name}.b2sum"))->toBe('');

    return $digests;
}

/** @return array<string, string> disk => digest of what it holds now */
function present(mixed $test): array
{
    $digests = [];
    foreach (['system', 'data'] as $disk) {
        $digests[$disk] = hash('sha256', HypervisorAtWork::content($test->hypervisor, 'kelp', $disk));
    }

    return $digests;
}

/** Writes as the machine does, past everything that is ours. */
function machineWrites(HypervisorAtWork $host, string $disk, string $byte, int $from, int $length): void
{
    Disks::write("{$host->folder}/storages/fast/kelp.$disk.qcow2", [[$byte, $from, $length]]);
}

it('makes fulls, increments and differentials of a machine that is off, and each is a point', function (): void {
    $full = protect($this, '--machine=ketch:kelp', '--level=full');
    $first = present($this);
    expect(images($this, $full))->toBe($first)->and($full->consistency)->toBe('application')->and($full->entries)->toBe(11 + 1 + 5);

    machineWrites($this->host, 'system', '5', 131_072, 65_536);
    machineWrites($this->host, 'data', 'zero', 1 << 20, 131_072);
    $incr = protect($this);
    $second = present($this);
    expect(images($this, $incr))->toBe($second)->and($incr->base_id)->toBe($full->id)->and($incr->base_recorded)->toBeTrue();

    machineWrites($this->host, 'system', '6', 3 << 20, 1000);
    $diff = protect($this, '--level=diff');
    expect(images($this, $diff))->toBe(present($this))->and($diff->base_id)->toBe($full->id);

    foreach ([[$full, $first], [$incr, $second]] as [$set, $wanted]) {
        $this->kaiseki('restore', 'kelp', "--point={$set->name}", '--whole', '--name=again', '--on=ketch');
        foreach ($wanted as $disk => $digest) {
            expect(hash('sha256', HypervisorAtWork::content($this->hypervisor, 'again', $disk)))->toBe($digest);
        }
        $this->hypervisor->delete('again');
    }
});

it('takes the disks of a machine that runs as they were in one instant, and says so', function (): void {
    protect($this, '--machine=ketch:kelp', '--level=full');
    $this->hypervisor->start('kelp');
    foreach (['system', 'data'] as $disk) {
        $this->host->guestWrites($disk, 9, 65_536, 65_536);
    }
    $incr = protect($this);
    $this->hypervisor->stop('kelp', true);
    expect(images($this, $incr))->toBe(present($this))->and($incr->consistency)->toBe('crash')
        ->and($incr->entries)->toBe(2)
        ->and($incr->facts['machine']['memory_mib'])->toBe(256);
});

it('compares where a mark cannot be believed: after a power cut, and where somebody wrote past it', function (): void {
    protect($this, '--machine=ketch:kelp', '--level=full');
    $this->hypervisor->start('kelp');
    posix_kill((int) file_get_contents(glob("{$this->host->folder}/run/*.pid")[0]), SIGKILL);
    while ($this->hypervisor->machine('kelp')->isRunning()) {
        usleep(10_000);
    }
    machineWrites($this->host, 'system', '5', 131_072, 65_536);
    expect(images($this, protect($this)))->toBe(present($this));

    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'data', random_bytes(100_000), 70_000);
    expect($this->hypervisor->marks('kelp', 'data'))->toBe([])
        ->and(images($this, protect($this)))->toBe(present($this));
});

it('leaves a disk out by rule, and says so in every point', function (): void {
    $set = protect($this, '--machine=ketch:kelp', '--exclude-disk=data', '--level=full');
    $next = protect($this);
    expect($set->facts['excluded'])->toBe(['data'])
        ->and($next->remarks)->toContain('The disk data is left out by rule.')
        ->and(array_column($next->facts['disks'], 'name'))->toBe(['system']);
    // It comes back without that disk, and this is told before.
    $dry = fn (string ...$way): array => $this->kaiseki('restore', 'kelp', "--point={$next->name}", '--dry-run', '--json', ...$way)->json();
    expect($dry('--whole', '--name=again')['assumed'])->toBe(['No set has data: the machine comes back without.']);
    expect($this->kaiseki('restore', 'kelp', "--point={$next->name}", '--whole', '--name=again', '--on=ketch')->code)->toBe(0)
        ->and($this->hypervisor->machine('again')->settings->diskNames())->toBe(['system']);
    $this->hypervisor->delete('again');
    expect($dry('--rollback')['blockers'])->toBe([])
        ->and($this->kaiseki('restore', 'kelp', "--point={$next->name}", '--rollback', '--on=ketch')->code)->toBe(0);
});

it('leaves nothing of a set that came to nothing, and what changed is in the next', function (): void {
    protect($this, '--machine=ketch:kelp', '--level=full');
    machineWrites($this->host, 'system', '5', 131_072, 65_536);
    $store = $this->scratch()->at('store/kelp');
    $before = scandir($store);
    while ($this->stamp >= time()) {
        usleep(20_000);
    }
    // Its image has a name that something has already: the set of this second, and of the next ones, cannot be written.
    foreach (range(0, 20) as $second) {
        touch("$store/kelp.data.incr.".gmdate('Ymd\THis\Z', time() + $second).'.qcow2');
    }
    expect($this->kaiseki('protect', 'kelp')->code)->not->toBe(0)->and(glob("$store/kelp.system.incr.*"))->toBe([]);
    array_map(unlink(...), glob("$store/kelp.data.incr.*"));
    expect(scandir($store))->toBe($before)
        ->and(images($this, protect($this)))->toBe(present($this));
});

it('rolls back by what is marked as changed, to any point', function (): void {
    $full = protect($this, '--machine=ketch:kelp', '--level=full');
    $first = present($this);
    machineWrites($this->host, 'system', '5', 131_072, 65_536);
    $incr = protect($this);
    $second = present($this);
    machineWrites($this->host, 'system', '6', 5 << 20, 65_536);
    $told = $this->kaiseki('restore', 'kelp', "--point={$incr->name}", '--rollback', '--json')->json();
    expect(present($this))->toBe($second)->and(array_column($told['disks'], 'data'))->toBe([65_536, 0]);
    // The marks are void now; the next set compares, and its mark tells the next rollback.
    protect($this);
    machineWrites($this->host, 'data', '7', 0, 65_536);
    $this->kaiseki('restore', 'kelp', "--point={$full->name}", '--rollback');
    expect(present($this))->toBe($first);
    $step = Run::query()->orderByDesc('id')->firstOrFail()->steps()->where('position', 2)->firstOrFail();
    expect($step->detail)->toBe('2 blocks differ, and are kept; found by what was marked as changed, 128 KiB read');
});

it('says what is wrong before it makes anything', function (string $why, string ...$more): void {
    $answer = $this->kaiseki('protect', 'kelp', ...$more);
    expect($answer->code)->not->toBe(0)->and($answer->text)->toContain($why);
})->with([
    ['There is no hypervisor "sloop"', '--machine=sloop:kelp'],
    ['There is no machine "dulse" at ketch', '--machine=ketch:dulse'],
    ['kelp has no disk "third"', '--machine=ketch:kelp', '--exclude-disk=third'],
    ['make a full, diff or incr', '--machine=ketch:kelp', '--level=log'],
]);

/** The catalog has nothing of it any more; the store has. */
function forget(string $workload): void
{
    Run::query()->delete();
    Workload::query()->where('name', $workload)->delete();
}

it('takes its sets in again by what lies on the store, and none whose images are not what they were', function (): void {
    protect($this, '--machine=ketch:kelp', '--level=full');
    foreach (['5', '6'] as $byte) {
        machineWrites($this->host, 'system', $byte, 131_072, 65_536);
        $last = protect($this);
    }
    $told = fn (): array => BackupSet::query()
        ->with('base', 'copies')
        ->orderBy('instant')
        ->get()
        ->map(fn (BackupSet $set): array => [
            $set->name, $set->level, $set->base?->name, $set->base_recorded, $set->consistency, $set->facts, $set->entries, $set->beside,
            $set->copies->map(fn ($copy): array => [$copy->path, $copy->part, $copy->bytes, $copy->has_beside])->all(),
        ])
        ->all();
    $before = $told();
    forget('kelp');
    expect(BackupSet::query()->count())->toBe(0);
    $answer = $this->kaiseki('catalog', 'rebuild', '--store=boathouse', '--json')->json();
    expect($told())->toEqual($before)->and($answer['problems'])->toBe([]);
    expect($this->kaiseki('catalog', 'rebuild', '--store=boathouse', '--json')->json()['sets'][0]['from'])->toBe('known');

    $this->kaiseki('restore', 'kelp', "--point={$last->name}", '--whole', '--name=again', '--on=ketch');
    expect(hash('sha256', HypervisorAtWork::content($this->hypervisor, 'again', 'system')))->toBe(present($this)['system']);

    // One image of the middle set is changed: that set, and what rests on it, are not taken for what they were.
    forget('kelp');
    $image = $this->scratch()->at("store/{$before[1][8][0][0]}");
    file_put_contents($image, 'x', FILE_APPEND);
    $answer = $this->kaiseki('catalog', 'rebuild', '--store=boathouse', '--json')->json();
    expect(array_column($answer['sets'], 'set'))->toBe([$before[0][0]])
        ->and($answer['problems'][0]['because'])->toContain('is not what its record says')
        ->and($answer['problems'][1]['because'])->toContain("It rests on {$before[1][0]}, which is not here");
});

it('checks the file systems of a set by their own tools, and doubts one that is not whole', function (): void {
    $system = $this->scratch()->at('system.raw');
    Disks::qemu('mke2fs', '-q', '-t', 'ext4', '-F', $system);
    Disks::qemu('mformat', '-i', $this->scratch()->at('data.raw'), '-T', '6144', '-v', 'BOOT', '::');
    foreach (['system', 'data'] as $disk) {
        HypervisorAtWork::fill($this->hypervisor, 'kelp', $disk, (string) file_get_contents($this->scratch()->at("$disk.raw")));
    }
    $set = protect($this, '--machine=ketch:kelp', '--level=full');
    $this->artisan('queue:work', ['--queue' => 'checks', '--stop-when-empty' => true, '--memory' => 4096]);
    $sign = SetSign::query()->where('set_id', $set->id)->sole();
    expect([$sign->words, $sign->doubts, $set->refresh()->in_doubt])
        ->toBe(['The file systems of system, data are whole, by the tools that are theirs.', false, false]);

    // An inode bitmap that says what cannot be.
    preg_match('/inode bitmap at (\d+)/i', $this->scratch()->run('dumpe2fs', $system), $bitmap);
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', str_repeat("\xaa", 1024), 1024 * (int) $bitmap[1]);
    $set = protect($this);
    $this->artisan('queue:work', ['--queue' => 'checks', '--stop-when-empty' => true, '--memory' => 4096]);
    $sign = SetSign::query()->where('set_id', $set->id)->sole();
    expect([$sign->doubts, $set->refresh()->in_doubt])->toBe([true, true])
        ->and($sign->words)->toContain('The file system of system is not whole: e2fsck says: ')
        ->and(glob(Instance::folder('tmp').'/volume-*'))->toBe([]);
    $this->actingAs($this->person(Role::Operator))->get("/sets/{$set->id}")->assertSee(['In doubt', 'e2fsck says']);
});
