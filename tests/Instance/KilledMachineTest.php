<?php

declare(strict_types=1);

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// The process that brings a machine back is ended with SIGKILL at seeded moments, at a hypervisor of the demo. What its disks hold is
// compared with what qemu-img makes of the set's images.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    Instance::control('stop', 'scheduler', 'workers:*');
});

afterEach(function (): void {
    Instance::control('start', 'scheduler', 'workers:*');
    $this->scratch->remove();
});

/**
 * @param  int  $part  which part of its name says which disk it is of
 * @return array<string, string> disk => digest of all that an image holds
 */
function inImages(mixed $test, string $pattern, int $part = -2): array
{
    $digests = [];
    foreach (glob($pattern) ?: [] as $image) {
        $raw = $test->scratch->at('raw');
        Disks::qemu('qemu-img', 'convert', '-U', '-f', 'qcow2', '-O', 'raw', $image, $raw);
        $digests[array_slice(explode('.', basename($image)), $part, 1)[0]] = hash_file('sha256', $raw);
    }

    return $digests;
}

/** Kills what brings the machine back after a while; the id of a run that did not end. */
function killed(Randomizer $random, string ...$arguments): int
{
    return killedIn($random, 'restore', 'crew-roster', '--at=2099-01-01T00:00:00Z', '--on=boathouse-vm-2', '--json', ...$arguments);
}

function killedIn(Randomizer $random, string ...$command): int
{
    $process = Instance::process(...$command);
    $running = fn (): int => (int) Instance::database()->query(
        "SELECT COALESCE(MAX(r.id), 0) FROM runs r JOIN workloads w ON w.id = r.workload_id WHERE w.name = 'crew-roster' ".
            "AND r.state = 'running'",
    )->fetchColumn();
    $process->start();
    Instance::waitUntil(fn (): bool => $running() !== 0 || ! $process->isRunning());
    usleep($random->getInt(0, 1_200_000));
    $process->isRunning() && $process->signal(SIGKILL);
    $process->wait();

    return $running();
}

/** @return list<string> */
function standing(): array
{
    $machines = Instance::kaiseki('machine', 'list', '--on=boathouse-vm-2', '--json')->json()['machines'];

    return array_column($machines, 'machine');
}

it('leaves what stood there, and goes on, wherever it is killed', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $there = "$home/vm/2/storages/*/again";
    $wanted = inImages($this, "$home/stores/boathouse/crew-roster/crew-roster.*.full.*.qcow2", 1);
    expect(array_keys($wanted))->toEqualCanonicalizing(['system', 'data']);
    $last = fn (): int => (int) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();

    $run = killed($random, '--whole', '--name=again', '--new-mac');
    expect(array_diff(standing(), ['crew-roster', 'again', "again.run-$run"]))->toBe([]);
    $run === 0 || expect(Instance::kaiseki('resume', (string) $run)->code)->toBe(0);
    $run = $run === 0 ? $last() : $run;
    expect(standing())->toEqualCanonicalizing(['crew-roster', 'again'])->and(inImages($this, "$there.*.qcow2"))->toEqual($wanted);

    // Somebody writes to it, and it is rolled back; then the rollback itself is.
    $image = glob("$there.*.data.qcow2")[0];
    Disks::write($image, Disks::someWrites($random, 32 << 20, 20));
    $changed = inImages($this, "$there.*.qcow2");
    $back = killed($random, '--rollback', '--name=again');
    $back === 0 || expect(Instance::kaiseki('resume', (string) $back)->code)->toBe(0);
    $back = $back === 0 ? $last() : $back;
    expect(inImages($this, "$there.*.qcow2"))->toEqual($wanted)
        ->and(Instance::kaiseki('put-back', (string) $back)->code)->toBe(0)
        ->and(inImages($this, "$there.*.qcow2"))->toEqual($changed);

    expect(Instance::kaiseki('put-back', (string) $run, '--also-changed')->code)->toBe(0)
        ->and(standing())->toBe(['crew-roster'])
        ->and(glob("$home/vm/2/{doors,run}/d*", GLOB_BRACE))->toBe([]);
})->with(deeper([1, 2, 3]));

it('brings files into a machine whole or not at all, wherever it is killed', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $there = "$home/vm/2/storages/*/again.*.qcow2";
    $made = Instance::kaiseki('restore', 'crew-roster', '--at=2099-01-01T00:00:00Z', '--on=boathouse-vm-2', '--whole', '--name=again',
        '--new-mac', '--json');
    expect($made->code)->toBe(0, $made->text);
    $before = inImages($this, $there);

    $run = killed($random, '--path=/system.2/srv', '--path=/data/plans', '--into=again', '--conflict=replace');
    $run === 0 || expect(Instance::kaiseki('resume', (string) $run)->code)->toBe(0);
    $run = $run === 0 ? (int) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn() : $run;
    $after = inImages($this, $there);
    expect($after['data'])->not->toBe($before['data'])->and($after['system'])->not->toBe($before['system']);
    Disks::qemu('qemu-img', 'convert', '-U', '-f', 'qcow2', '-O', 'raw', glob("$home/vm/2/storages/*/again.*.data.qcow2")[0],
        $this->scratch->at('raw'));
    Disks::qemu('e2fsck', '-fn', $this->scratch->at('raw'));

    expect(Instance::kaiseki('put-back', (string) $run)->code)->toBe(0)
        ->and(inImages($this, $there))->toEqual($before)
        ->and(Instance::kaiseki('put-back', (string) $made->json()['run'], '--also-changed')->code)->toBe(0)
        ->and(glob("$home/tmp/machine-into-*"))->toBe([]);
})->with(deeper([4, 5]));

it('stands a machine up and settles it, wherever it is killed, and leaves nothing behind', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $last = fn (): int => (int) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn();
    $run = killed($random, '--stand-up', '--name=again', '--new-mac');
    $run === 0 || expect(Instance::kaiseki('resume', (string) $run)->code)->toBe(0);
    $run = $run === 0 ? $last() : $run;
    expect(standing())->toEqualCanonicalizing(['crew-roster', "again.standing-run-$run"]);

    $settling = killedIn($random, 'settle', (string) $run, '--speed=30', '--json');
    $settling === 0 || expect(Instance::kaiseki('resume', (string) $settling)->code)->toBe(0);
    $outcome = (string) Instance::database()->query('SELECT outcome FROM runs ORDER BY id DESC LIMIT 1')->fetchColumn();
    expect(array_column(json_decode($outcome, true)['checks'], 'result'))->toBe(['passed', 'passed'])
        ->and(standing())->toEqualCanonicalizing(['crew-roster', 'again']);

    Instance::kaiseki('machine', 'stop', 'again', '--on=boathouse-vm-2', '--at-once');
    expect(Instance::kaiseki('put-back', (string) $run, '--also-changed')->code)->toBe(0)
        ->and(standing())->toBe(['crew-roster'])
        ->and(glob("$home/vm/2/{doors,run}/d*", GLOB_BRACE))->toBe([])
        ->and(glob("$home/serving/*.json"))->toBe([])
        ->and(glob("$home/vm/2/storages/*/again*"))->toBe([]);
})->with(deeper([6, 7]));

it('stands a machine up in an annex and releases it, wherever it is killed, and leaves nothing behind', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $run = killed($random, '--stand-up', '--annex', '--name=again');
    $run === 0 || expect(Instance::kaiseki('resume', (string) $run)->code)->toBe(0);
    $run = $run === 0 ? (int) Instance::database()->query('SELECT MAX(id) FROM runs')->fetchColumn() : $run;
    $inAnnex = Instance::kaiseki('machine', 'show', "again.standing-run-$run", '--on=boathouse-vm-2', '--json')->text;
    expect($inAnnex)->toContain("annex-run-$run");

    // It cannot meet the one that has its address: a name of its own does not help.
    expect(Instance::kaiseki('release', (string) $run, '--unscanned')->code)->toBe(3);
    expect(Instance::kaiseki('discard', (string) $run)->code)->toBe(0);

    $run = Instance::kaiseki('restore', 'crew-roster', '--at=2099-01-01T00:00:00Z', '--on=boathouse-vm-2', '--stand-up', '--annex',
        '--name=again', '--new-mac', '--json')->json()['run'];
    $release = killedIn($random, 'release', (string) $run, '--unscanned', '--json');
    $release === 0 || expect(Instance::kaiseki('resume', (string) $release)->code)->toBe(0);
    $shown = Instance::kaiseki('machine', 'show', "again.standing-run-$run", '--on=boathouse-vm-2', '--json')->text;
    expect($shown)->not->toContain('annex-run')
        ->and(Instance::kaiseki('annex', (string) $run, '--json')->json()['ended'])->toBe('released')
        ->and(Instance::kaiseki('discard', (string) $run)->code)->toBe(0)
        ->and(standing())->toBe(['crew-roster'])
        ->and(glob("$home/vm/2/annexes/*"))->toBe([])
        ->and(glob("$home/vm/2/storages/*/again*"))->toBe([])
        ->and(glob("$home/serving/*.json"))->toBe([]);
})->with([8])->group('deep');

it('goes home from where it stands in, wherever it is killed, and leaves nothing behind', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $run = Instance::kaiseki('restore', 'crew-roster', '--at=2099-01-01T00:00:00Z', '--on=pier-nine-vm', '--whole', '--start', '--json');
    expect($run->code)->toBe(0, $run->text);
    $run = (string) $run->json()['run'];
    $wasOn = Instance::kaiseki('machine', 'show', 'crew-roster', '--on=boathouse-vm-2', '--json')->json()['runs'] ?? false;
    Instance::kaiseki('machine', 'stop', 'crew-roster', '--on=boathouse-vm-2', '--at-once');
    expect(Instance::kaiseki('stand-in', $run)->code)->toBe(0);

    killedIn($random, 'go-home', $run, '--json');
    [$going, $state] = Instance::database()
        ->query("SELECT id, state FROM runs WHERE JSON_VALUE(plan, '$.way') = 'home' ORDER BY id DESC LIMIT 1")
        ->fetch(PDO::FETCH_NUM);
    if ($state !== 'done') { // and once more, later on
        $again = Instance::process('resume', (string) $going);
        $again->start();
        usleep($random->getInt(500_000, 12_000_000));
        $again->isRunning() && $again->signal(SIGKILL);
        $again->wait();
        $state = Instance::database()->query("SELECT state FROM runs WHERE id = $going")->fetchColumn();
    }
    $state === 'done' || expect(Instance::kaiseki('resume', (string) $going)->code)->toBe(0);
    $outcome = (string) Instance::database()->query("SELECT outcome FROM runs WHERE id = $going")->fetchColumn();
    expect(array_column(json_decode($outcome, true)['checks'], 'result'))->not->toContain('failed')
        ->and(Instance::kaiseki('machine', 'show', 'crew-roster', '--on=boathouse-vm-2', '--json')->text)->toContain('"since"');

    // The way back, and then all of it undone.
    expect(Instance::kaiseki('put-back', (string) $going, '--also-changed')->code)->toBe(0);
    Instance::kaiseki('machine', 'stop', 'crew-roster', '--on=pier-nine-vm', '--at-once');
    expect(Instance::kaiseki('put-back', $run, '--also-changed')->code)->toBe(0)
        ->and(glob("$home/vm/*/storages/*/crew-roster.run-*"))->toBe([]);
    $wasOn && Instance::kaiseki('machine', 'start', 'crew-roster', '--on=boathouse-vm-2');
})->with([9, 10, 11])->group('deep');
