<?php

declare(strict_types=1);

use App\Care\NewSources;
use App\Kinds\Kinds;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\LookAtHypervisors;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\Workload;
use Kaiseki\Core\Hypervisor\CardSettings;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/*
 * A real stand-in hypervisor, in a process of its own; what its disks hold is compared with what qemu-img makes of the same images.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->machine = Machine::taken($this);
    $this->at = '2026-10-02T12:00:00Z';
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}", '--site=boathouse');
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

function disksAre(mixed $test, string $name, string $set): void
{
    foreach (['system', 'data'] as $disk) {
        $there = hash('sha256', HypervisorAtWork::content($test->hypervisor, $name, $disk));
        expect([$disk, $there])->toBe([$disk, $test->machine->digest($set, $disk)]);
    }
}

/** The machine as it is at its last set, at the hypervisor, and known there. */
function stands(mixed $test, string $set = 'berth.incr.20261003T020000Z'): void
{
    foreach (['system', 'data'] as $disk) {
        $test->machine->digest($set, $disk);
    }
    $test->host->machine('berth', system: $test->scratch()->at('theirs-system.raw'), data: $test->scratch()->at('theirs-data.raw'));
    $test->kaiseki('machine', 'known', 'berth', '--on=ketch', '--as=berth');
}

it('knows hypervisors and their machines', function (): void {
    stands($this);
    expect($this->told(0, 'hypervisor', 'list')['hypervisors'][0]['room']['networks'])
        ->toBe(['harbour', 'office'])
        ->and($this->told(0, 'machine', 'list')['machines'])
        ->toBe([['on' => 'ketch', 'machine' => 'berth', 'runs' => false, 'protected_as' => ['berth']]])
        ->and($this->told(0, 'machine', 'start', 'berth')['runs'])
        ->toBeTrue()
        ->and($this->told(0, 'machine', 'show', 'berth')['since'])
        ->toBeInt()
        ->and($this->told(0, 'machine', 'stop', 'berth', '--at-once')['runs'])
        ->toBeFalse();
});

it('brings a machine back whole, new', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--whole', '--on=ketch', '--storage=bulk', '--memory=128', '--start');
    disksAreRunning($this, 'berth');
    $this->hypervisor->stop('berth', true);
    disksAre($this, 'berth', 'berth.incr.20261002T020000Z');
    $seen = $this->hypervisor->machine('berth');
    expect($told['checks'])
        ->each(fn ($check) => $check->result->not->toBe('failed'))
        ->and(array_unique($seen->storages))
        ->toBe(['system' => 'bulk'])
        ->and($seen->settings->memory)
        ->toBe(128)
        ->and($seen->settings->diskNames())
        ->toBe(['system', 'data'])
        ->and($told['disks'][1]['data'])
        ->toBe(1_048_576 + 65_536);
});

function disksAreRunning(mixed $test, string $name): void
{
    expect($test->hypervisor->machine($name)->isRunning())->toBeTrue();
}

it('sets aside what stands there only when it is asked to, and puts it back', function (): void {
    stands($this);
    $refused = $this->told(3, 'restore', 'berth', "--at={$this->at}", '--whole', '--on=ketch');
    expect($refused['error'])->toContain('There is a machine berth at ketch already');

    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--whole', '--set-aside');
    disksAre($this, 'berth', 'berth.incr.20261002T020000Z');
    disksAre($this, $told['set_aside'], 'berth.incr.20261003T020000Z');

    $this->told(0, 'put-back', (string) $told['run']);
    disksAre($this, 'berth', 'berth.incr.20261003T020000Z');
    expect(array_keys($this->hypervisor->machines()))->toBe(['berth']);
});

it('does not put back what was changed since, unless that is said', function (): void {
    stands($this);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--whole', '--set-aside');
    HypervisorAtWork::fill($this->hypervisor, 'berth', 'data', 'a plan of today');
    $left = $this->told(4, 'put-back', (string) $told['run']);
    expect($left['left'])->toBe([['path' => 'berth', 'because' => 'changed since: data']]);
    $this->told(0, 'put-back', (string) $told['run'], '--also-changed');
    disksAre($this, 'berth', 'berth.incr.20261003T020000Z');
});

it('refuses a machine that runs, and ends it when that is said', function (): void {
    stands($this);
    $this->hypervisor->start('berth');
    $refused = $this->told(3, 'restore', 'berth', "--at={$this->at}", '--rollback');
    expect($refused['error'])->toContain('berth at ketch runs');
    $this->told(0, 'restore', 'berth', "--at={$this->at}", '--rollback', '--stop');
    disksAre($this, 'berth', 'berth.incr.20261002T020000Z');

    // There is nothing in it that could hear that it is asked to go: it is ended after the time for that.
    config(['machines.shuts_down_in' => 1]);
    $this->hypervisor->start('berth');
    $told = $this->told(0, 'restore', 'berth', '--point=berth.incr.20261003T020000Z', '--rollback', '--shut-down');
    disksAre($this, 'berth', 'berth.incr.20261003T020000Z');
    expect(Run::query()->findOrFail($told['run'])->plan['sentence'])->toStartWith('Shut it down if it runs; then');
});

it('goes on with a run that was cut off behind the start of the machine, which runs since', function (string ...$way): void {
    stands($this);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--start', ...$way);
    expect($this->hypervisor->machine('berth')->isRunning())->toBeTrue();
    $run = Run::query()->findOrFail($told['run']);
    $checks = $run->outcome['checks'];
    $run->update(['state' => 'failed', 'ended_at' => now()]);
    $this->told(0, 'resume', (string) $run->id);
    expect($run->refresh()->state)->toBe('done')
        ->and(array_column($run->outcome['checks'], 'result'))->toBe(array_column($checks, 'result'))
        ->and($this->hypervisor->machine('berth')->isRunning())->toBeTrue();
})->with([['--rollback'], ['--disk=data'], ['--configuration'], ['--whole', '--set-aside']]);

it('writes back only what differs, and keeps what it wrote over', function (): void {
    stands($this);
    HypervisorAtWork::fill($this->hypervisor, 'berth', 'data', random_bytes(70_000), 3 << 20);
    $now = array_map(fn (string $disk): string => HypervisorAtWork::content($this->hypervisor, 'berth', $disk), ['system', 'data']);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--rollback');
    disksAre($this, 'berth', 'berth.incr.20261002T020000Z');
    // 100,000 bytes from 1 MiB on are two blocks; 70,000 from 3 MiB on are two.
    expect(array_column($told['disks'], 'data'))->toBe([2 * 65_536, 2 * 65_536]);

    $this->told(0, 'put-back', (string) $told['run']);
    $back = array_map(fn (string $disk): string => HypervisorAtWork::content($this->hypervisor, 'berth', $disk), ['system', 'data']);
    expect($back === $now)->toBeTrue();
});

it('does not mix two states of a disk when it puts a rollback back', function (): void {
    stands($this);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--rollback');
    HypervisorAtWork::fill($this->hypervisor, 'berth', 'system', 'written since');
    $left = $this->told(4, 'put-back', (string) $told['run'], '--also-changed');
    expect($left['left'][0]['because'])->toContain('two states of it would be mixed');
});

it('gives a machine one disk back, with the one it had set aside', function (): void {
    stands($this);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--disk=system');
    $is = fn (string $disk): string => hash('sha256', HypervisorAtWork::content($this->hypervisor, 'berth', $disk));
    expect($is('system'))
        ->toBe($this->machine->digest('berth.incr.20261002T020000Z', 'system'))
        ->and($is('data'))
        ->toBe($this->machine->digest('berth.incr.20261003T020000Z', 'data'));
    $this->told(0, 'put-back', (string) $told['run']);
    disksAre($this, 'berth', 'berth.incr.20261003T020000Z');
    expect(array_keys($this->hypervisor->machines()))->toBe(['berth']);
});

it('brings one back beside it under another name, with addresses of its own', function (): void {
    stands($this);
    $card = new CardSettings('harbour', '52:54:00:aa:bb:cc');
    $this->hypervisor->configure('berth', $this->hypervisor->machine('berth')->settings->with(cards: [$card]));
    $clash = $this->told(3, 'restore', 'berth', "--at={$this->at}", '--whole', '--name=berth-test');
    expect($clash['error'])->toContain('52:54:00:aa:bb:cc too');
    $this->told(
        0,
        'restore',
        'berth',
        "--at={$this->at}",
        '--whole',
        '--name=berth-test',
        '--new-mac',
        '--network=office',
        '--cards=unplugged',
    );
    $cards = $this->hypervisor->machine('berth-test')->settings->cards;
    expect($cards[0]->mac)
        ->not->toBe('52:54:00:aa:bb:cc')
        ->and([$cards[0]->network, $cards[0]->isConnected])
        ->toBe(['office', false]);
    disksAre($this, 'berth-test', 'berth.incr.20261002T020000Z');
    disksAre($this, 'berth', 'berth.incr.20261003T020000Z');
});

it('says before the first byte what there is no room for', function (): void {
    $small = new HypervisorAtWork(memory: 100, fast: 5 << 20);
    file_put_contents(
        "{$small->folder}/host.json",
        json_encode(['storages' => ['fast' => 5 << 20]] + json_decode(file_get_contents("{$small->folder}/host.json"), true)),
    );
    $this->told(0, 'hypervisor', 'add', 'skiff', "--folder={$small->folder}");
    $told = $this->told(3, 'restore', 'berth', "--at={$this->at}", '--whole', '--on=skiff', '--start', '--dry-run');
    expect($told['blockers'][0])
        ->toContain('The storage fast of skiff has 5 MiB free')
        ->and($told['blockers'][1])
        ->toContain('256 MiB of memory to run; 100 are free')
        ->and($small->open()->machines())
        ->toBe([]);
    $small->remove();
});

it('finds machines that nothing protects, and takes them up', function (): void {
    stands($this);
    $this->host->machine('kelp', system: $this->scratch()->file('disk.raw', str_repeat('x', 65_536)));
    (new LookAtHypervisors)->handle();
    expect(array_column((new NewSources)->found(), 'source', 'name'))->toBe(['kelp' => 'ketch:kelp']);
    (new NewSources)->takeUpAll(['kelp'], null);
    $workload = Workload::query()->where('name', 'kelp')->firstOrFail();
    expect(HypervisorHost::of($workload)[1])->toBe('kelp')->and((new NewSources)->found())->toBe([])
        ->and(Kinds::of($workload)->source($workload)->isGone())->toBeFalse();
    $this->hypervisor->delete('kelp');
    (new LookAtHypervisors)->handle();
    expect(Kinds::of($workload)->source($workload)->isGone())->toBeTrue();
});

it('says that a hypervisor is silent, keeps that for the pages, and shows what was there', function (): void {
    stands($this);
    $this->kaiseki('machine', 'list');
    $this->host->end();
    expect($this->told(3, 'machine', 'list')['error'])->toContain('ketch does not answer')
        ->and($this->told(0, 'hypervisor', 'list')['hypervisors'][0]['room'])->toBeNull();
    $host = HypervisorHost::query()->firstOrFail();
    expect($host->silent)->toContain('does not answer')->and(array_keys($host->lastSeen()->machines))->toBe(['berth']);
});

it('changes nothing of a marked machine from a terminal, but brings one beside it', function (): void {
    stands($this);
    Workload::query()->where('name', 'berth')->update(['needs_approval' => true]);
    foreach ([['--rollback'], ['--whole', '--set-aside'], ['--disk=system'], ['--configuration']] as $way) {
        expect($this->told(3, 'restore', 'berth', "--at={$this->at}", ...$way)['error'])->toContain('waits for a second person');
    }
    $this->told(0, 'restore', 'berth', "--at={$this->at}", '--whole', '--name=beside', '--new-mac');
});

it('configures a machine as it was, and back', function (): void {
    stands($this);
    $record = $this->hypervisor->machine('berth')->settings->with(memory: 512, cores: 2, tags: ['piers']);
    $set = BackupSet::query()->where('name', 'berth.incr.20261002T020000Z')->firstOrFail();
    $set->update(['facts' => ['machine' => $record->toArray()] + $set->facts]);
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--configuration');
    $is = fn (): array => $this->hypervisor->machine('berth')->settings->differences($record);
    expect($is())->toBe([]);
    $this->told(0, 'put-back', (string) $told['run']);
    expect($is())->toBe(['cores 1, was 2', 'memory 256 MiB, was 512 MiB', 'tags none, was piers']);
});

it('runs a command before and one after, tells what came of each, and does nothing if the first fails', function (): void {
    $ready = $this->scratch()->at('ready');
    $commands = [
        '--command-before='.json_encode(['/bin/sh', '-c', "echo begun >> $ready.log; test -e $ready"]),
        '--command-after='.json_encode(['/bin/sh', '-c', "echo ended >> $ready.log; exit 5"]),
    ];
    $whole = ['restore', 'berth', "--at={$this->at}", '--whole', '--on=ketch', '--storage=fast', ...$commands];
    expect(json_encode($this->told(0, ...[...$whole, '--dry-run'])))->toContain('; then run')->and(is_file("$ready.log"))->toBeFalse();

    $failed = $this->told(4, ...$whole);
    expect($failed['error'])->toContain('The command before it ended with 1')->and($this->hypervisor->machines())->toBe([]);
    touch($ready);
    $came = $this->told(4, ...$whole);
    expect(array_column($came['checks'], 'detail'))->toContain('ended with 5');
    disksAre($this, 'berth', 'berth.incr.20261002T020000Z');

    // Killed behind the command before, which is not run again.
    $this->hypervisor->delete('berth');
    $run = Run::query()->findOrFail($came['run']);
    $outcome = ['commands' => array_slice($run->outcome['commands'], 0, 1)];
    $run->steps()->delete();
    $run->update(['state' => 'running', 'worker' => null, 'ended_at' => null, 'outcome' => $outcome]);
    Kinds::of($run)->carrier()->carryOut($run);
    expect([$run->refresh()->state, array_column($run->outcome['commands'], 'exit')])->toBe(['done', [0, 5]])
        ->and(file_get_contents("$ready.log"))->toBe("begun\nbegun\nended\nended\n");
});
