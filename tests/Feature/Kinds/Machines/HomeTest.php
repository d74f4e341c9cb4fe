<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Home\GoHome;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Models\BackupSet;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\DomainName;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;
use Tests\Support\NameServerAtWork;

/*
 * A machine stands in at another hypervisor, and goes home. Both are real stand-in hypervisors; what its disks hold at home is compared
 * with what they held where it stood in, read from there.
 */

beforeEach(function (): void {
    array_map(unlink(...), glob(Instance::folder('serving').'/*') ?: []);
    config(['machines.shuts_down_in' => 2]); // there is nothing in these machines that would hear it
    Store::query()->create(['name' => 'pier', 'site' => 'pier', 'root' => $this->scratch()->folder('store')]);
    $this->helpers = new HelpersAtWork;
    $this->homeHost = new HypervisorAtWork;
    $this->awayHost = new HypervisorAtWork;
    [$this->home, $this->away] = [$this->homeHost->open(), $this->awayHost->open()];
    $this->machine = Machine::taken($this);
    foreach (['ketch' => $this->homeHost, 'skiff' => $this->awayHost] as $name => $host) {
        $this->kaiseki('hypervisor', 'add', $name, "--folder={$host->folder}", '--site=boathouse');
    }
    foreach (['system', 'data'] as $disk) {
        $this->machine->digest('berth.incr.20261003T020000Z', $disk);
    }
    $this->homeHost->machine('berth', system: $this->scratch()->at('theirs-system.raw'), data: $this->scratch()->at('theirs-data.raw'));
    $this->told(0, 'machine', 'known', 'berth', '--on=ketch', '--as=berth');
    $this->at = '2026-10-02T12:00:00Z';
    $this->elsewhere = fn (string ...$how): array => $this->told(0, 'restore', 'berth', "--at={$this->at}", '--on=skiff', ...$how);
    $this->disks = fn ($hypervisor, string $name): array => array_map(
        fn (string $disk): string => hash('sha256', HypervisorAtWork::content($hypervisor, $name, $disk)),
        ['system', 'data'],
    );
});

afterEach(function (): void {
    unset($this->home, $this->away);
    $this->homeHost->remove();
    $this->awayHost->remove();
    $this->helpers->end();
    expect([...$this->homeHost->left(), ...$this->awayHost->left()])->toBe([])->and($this->helpers->said())->toBe('');
});

/** @return array{string, string} the hypervisor and machine that a workload is */
function original(): array
{
    [$host, $machine] = HypervisorHost::of(Workload::query()->sole());

    return [$host->name, $machine];
}

it('stands in only for what is surely down, is the original then, and nobody starts that beside it', function (): void {
    $told = ($this->elsewhere)('--whole', '--start');
    $this->home->start('berth');
    expect($this->told(3, 'stand-in', (string) $told['run'])['error'])->toContain('berth at ketch runs');
    $this->home->stop('berth', true);
    expect($this->told(0, 'stand-in', (string) $told['run'])['home'])->toBe('ketch')
        ->and(original())->toBe(['skiff', 'berth'])
        ->and($this->told(3, 'stand-in', (string) $told['run'])['error'])->toContain('no machine back that could stand in');

    expect($this->told(3, 'machine', 'start', 'berth', '--on=ketch')['error'])->toContain('stands in for berth at ketch');
    $beside = ['restore', 'berth', "--at={$this->at}", '--on=ketch'];
    expect($this->told(3, ...[...$beside, '--whole', '--set-aside', '--start'])['error'])->toContain('must not run beside')
        ->and($this->told(3, ...[...$beside, '--stand-up', '--set-aside'])['error'])->toContain('must not run beside')
        ->and($this->told(0, ...[...$beside, '--rollback', '--dry-run'])['blockers'])->toBe([]);

    // It comes up again by itself: that is named before all else, until one of them is off.
    $listed = fn (): array => $this->told(0, 'standing')['standing_in'];
    expect($listed()[0]['original_runs'])->toBeFalse();
    $this->home->start('berth');
    HypervisorHost::query()->where('name', 'ketch')->sole()->look();
    $waits = Substitute::query()->sole()->waiting();
    expect($listed()[0]['original_runs'])->toBeTrue()
        ->and([$waits->weight, $waits->what])->toBe([98, 'berth at ketch runs again, while berth at skiff stands in for berth at ketch: '.
            'shut one of them down']);
    expect($this->told(3, 'go-home', (string) $told['run'])['error'])->toContain('berth at ketch runs');

    // What brought it there is put back: the original is what it was.
    $this->away->stop('berth', true);
    $this->told(0, 'put-back', (string) $told['run'], '--also-changed');
    expect(original())->toBe(['ketch', 'berth'])->and($listed())->toBe([]);
});

it('says that it cannot know whether one is down whose hypervisor is silent, until somebody has seen it', function (): void {
    $told = ($this->elsewhere)('--whole', '--start');
    $this->homeHost->end();
    expect($this->told(3, 'stand-in', (string) $told['run'])['error'])->toContain('say that you have seen that it is down');
    $this->told(0, 'stand-in', (string) $told['run'], '--home-is-down');
    // When it was seen last, before it burned, it may have run: that is no news of it.
    expect(TrailEntry::query()->where('what', 'like', '%that it is down was said%')->count())->toBe(1)
        ->and($this->told(0, 'standing')['standing_in'][0]['original_runs'])->toBeNull()
        ->and($this->told(3, 'go-home', (string) $told['run'])['error'])->toContain('ketch does not answer');
});

it('goes to another home than its own, and tells when the original comes up again there', function (): void {
    $ketch = HypervisorHost::query()->where('name', 'ketch')->sole();
    $folder = $ketch->folder;
    $run = (string) ($this->elsewhere)('--whole', '--start')['run'];
    $ketch->update(['folder' => '/nowhere']);
    $this->told(0, 'stand-in', $run, '--home-is-down');
    $lugger = new HypervisorAtWork;
    try {
        $this->told(0, 'hypervisor', 'add', 'lugger', "--folder={$lugger->folder}");
        expect($this->told(3, 'go-home', $run, '--on=skiff')['error'])->toContain('It stands in at skiff')
            ->and($this->told(3, 'go-home', $run, '--on=nowhere')['error'])->toContain('no hypervisor nowhere');
        $home = $this->told(0, 'go-home', $run, '--on=lugger');
        expect(original())->toBe(['lugger', 'berth'])
            ->and($lugger->open()->machine('berth')->isRunning())->toBeTrue();

        // The old host is there again, and what was on it starts by itself.
        $ketch->refresh()->update(['folder' => $folder]);
        expect(Substitute::concerns())->toBe([]);
        $this->home->start('berth');
        $ketch->look();
        $waits = Substitute::concerns()[0]->waiting();
        expect([$waits->weight, $waits->what])
            ->toBe([98, 'berth at ketch runs again, and is not the machine any more: shut it down']);
        $this->home->stop('berth', true);
        expect($this->told(3, 'machine', 'start', 'berth', '--on=ketch')['error'])->toContain('is not the machine any more');
        $lugger->open()->stop('berth', true);
        expect(($this->disks)($lugger->open(), 'berth'))->toBe(($this->disks)($this->away, 'berth'));
        $this->told(0, 'put-back', (string) $home['run']);
        expect(original())->toBe(['skiff', 'berth']);
    } finally {
        $lugger->remove();
    }
});

it('goes home with what came since, written over what stands there, and back again until that is accepted', function (): void {
    $run = (string) ($this->elsewhere)('--whole', '--start')['run'];
    $this->told(0, 'stand-in', $run);
    $this->awayHost->guestWrites('data', 99, 0, 65_536);
    $this->told(0, 'protect', 'berth', '--level=incr');
    $this->awayHost->guestWrites('data', 98, 1 << 20, 4096);

    $home = $this->told(0, 'go-home', $run);
    expect(array_column($home['checks'], 'result'))->not->toContain('failed')
        ->and(end($home['checks']))->toBe(['check' => 'the one that stood in is off', 'result' => 'passed', 'detail' => 'berth at skiff'])
        ->and([$this->home->machine('berth')->isRunning(), $this->away->machine('berth')->isRunning()])->toBe([true, false])
        ->and(original())->toBe(['ketch', 'berth']);
    $ran = Run::query()->findOrFail($home['run']);
    $children = Run::query()->findMany([$ran->outcome['brought_by'], $ran->outcome['last_by']]);
    // Only what differs was written: three blocks of the system's disk are others at the newest point than in the set below it.
    expect($children->pluck('plan.way')->all())->toBe(['rollback', 'rollback'])
        ->and($children[1]->outcome['bytes'])->toBe(65_536)
        ->and(BackupSet::query()->find($ran->set_id)->name)->toBe($ran->outcome['last_set']);

    expect(HypervisorHost::unprotected())->toBe([])
        ->and($this->told(3, 'machine', 'start', 'berth', '--on=skiff')['error'])->toContain('berth went home, to ketch')
        ->and($this->told(4, 'put-back', (string) $home['run'])['left'][0]['because'])->toContain('say that this may stay behind');
    $this->told(0, 'put-back', (string) $home['run'], '--also-changed');
    expect([$this->home->machine('berth')->isRunning(), $this->away->machine('berth')->isRunning()])->toBe([false, true])
        ->and(original())->toBe(['skiff', 'berth']);

    // It lives on there, and goes home for good.
    $this->awayHost->guestWrites('data', 97, 2 << 20, 4096);
    $home = $this->told(0, 'go-home', $run);
    $this->home->stop('berth', true);
    expect(($this->disks)($this->home, 'berth'))->toBe(($this->disks)($this->away, 'berth'));
    expect($this->kaiseki('set-aside')->text)->toContain('berth at skiff');
    $this->told(0, 'set-aside', (string) $home['run'], '--remove');
    expect($this->away->machines())->toBe([])
        ->and(Run::query()->findOrFail($home['run'])->canBePutBack())->toBeFalse()
        ->and(Substitute::query()->value('ended'))->toBe(Substitute::HOME);
});

it('goes home while it is not settled where it stands, as a new machine, on the networks that it was on', function (): void {
    $settings = $this->home->machine('berth')->settings;
    $this->home->configure('berth', $settings->with(cards: [new CardSettings('harbour', '02:00:00:00:00:07')]));
    $this->told(0, 'protect', 'berth', '--level=incr');
    $this->at = '2099-01-01T00:00:00Z';
    $this->home->delete('berth');
    $run = (string) ($this->elsewhere)('--stand-up')['run'];
    $this->told(0, 'stand-in', $run);
    $this->awayHost->guestWrites('data', 99, 0, 65_536);
    sleep(1); // a set is named by its second
    $set = $this->told(0, 'protect', 'berth', '--level=incr')['set'];
    // Where it stands in its card is on a network that home does not have.
    $facts = BackupSet::query()->where('name', $set)->sole();
    $facts->update(['facts' => array_replace_recursive($facts->facts, ['machine' => ['cards' => [['network' => 'elsewhere']]]])]);

    $home = $this->told(0, 'go-home', $run, '--storage=bulk');
    $there = $this->home->machine('berth');
    expect([$there->isRunning(), array_values(array_unique($there->storages))])->toBe([true, ['bulk']])
        ->and($there->settings->networks())->toBe(['harbour'])
        ->and($this->told(0, 'standing')['standing'][0]['machine'])->toBe("berth.standing-run-$run");
    $this->home->stop('berth', true);
    $data = HypervisorAtWork::content($this->home, 'berth', 'data');
    expect(substr($data, 0, 65_536) === str_repeat('c', 65_536))->toBeTrue();
    $this->told(0, 'set-aside', (string) $home['run'], '--remove');
    expect($this->away->machines())->toBe([])->and($this->told(0, 'standing')['standing'])->toBe([]);
});

it('is gone on with where it was, and what stood in is started again where that is said', function (): void {
    $run = (string) ($this->elsewhere)('--whole', '--start')['run'];
    $this->told(0, 'stand-in', $run);
    // Between the set made last and home nothing gets through.
    Store::query()->where('name', 'pier')->update(['read_only' => true]);
    $failed = $this->told(4, 'go-home', $run);
    $ran = Run::query()->findOrFail($failed['run']);
    expect($failed['error'])->toContain('No set of it could be made')->toContain('put it back, which starts it again')
        ->and($this->away->machine('berth')->isRunning())->toBeFalse()
        ->and($ran->canBePutBack())->toBeTrue();
    $this->told(0, 'put-back', (string) $ran->id);
    expect($this->away->machine('berth')->isRunning())->toBeTrue();

    // No more can run at home; meanwhile somebody starts what stood in again, and it lives on: what was made of it last is not the last.
    Store::query()->where('name', 'pier')->update(['read_only' => false]);
    foreach (['a', 'b', 'c'] as $name) {
        $this->homeHost->machine($name, disk: $this->scratch()->file('empty', str_repeat("\0", 512)));
        $this->home->start($name);
    }
    $failed = $this->told(4, 'go-home', $run);
    expect($failed['error'])->toContain('no more can')->and(Run::query()->findOrFail($failed['run'])->outcome['last_set'])->not->toBeNull();
    $this->told(0, 'machine', 'start', 'berth', '--on=skiff');
    $this->awayHost->guestWrites('data', 96, 3 << 20, 4096);
    $this->home->stop('a', true);
    $this->told(0, 'resume', (string) $failed['run']);
    expect(Run::query()->findOrFail($failed['run'])->state)->toBe('done')
        ->and($this->home->machine('berth')->isRunning())->toBeTrue();
    $this->home->stop('berth', true);
    expect(($this->disks)($this->home, 'berth'))->toBe(($this->disks)($this->away, 'berth'));
    array_map(fn (string $name) => $this->home->stop($name, true), ['b', 'c']);
});

it('is let stand in, brought home at a time, and accepted on the page of its run', function (): void {
    Queue::fake();
    $person = User::query()->create([
        'name' => 'Wren', 'email' => 'wren@sorrelsound.example', 'role' => Role::Operator, 'password' => 'x', 'zone' => 'Europe/Berlin',
    ]);
    $run = Run::query()->findOrFail(($this->elsewhere)('--whole', '--start')['run']);
    $page = fn (Run $of) => $this->actingAs($person)->get($of->page())->assertOk();
    $page($run)->assertSee('Sets are made of that one still')->assertDontSee('I have seen that');
    $this->post("/runs/{$run->id}/stand-in")->assertRedirect("{$run->page()}#home");
    $page($run)->assertSee('stands in for')->assertSee('nobody starts it beside this one');

    $this->post("/runs/{$run->id}/home", ['at' => '2030-01-01T03:00'])->assertRedirect("{$run->page()}#home");
    $substitute = Substitute::query()->sole();
    expect($substitute->home_at->format('Y-m-d H:i'))->toBe('2030-01-01 02:00');
    $page($run)->assertSee('It is brought home from');
    GoHome::whenDue();
    Queue::assertNotPushed(CarryOutRun::class);
    $this->travelTo('2030-01-01 02:00:30');
    GoHome::whenDue();
    $this->travelBack();
    $home = $substitute->refresh()->homeRun;
    Queue::assertPushed(CarryOutRun::class, fn (CarryOutRun $job): bool => $job->run === $home->id);
    expect([$home->user_id, $home->plan['way'], $substitute->home_at])->toBe([$person->id, 'home', null]);
    $this->post("/runs/{$run->id}/home")->assertRedirect("{$run->page()}#home")->assertSessionHasErrors('home');

    (new CarryOutRun($home->id))->handle();
    $this->get('/estate')->assertOk()->assertSee('went home, and is kept until that is accepted')->assertDontSee('not protected');
    $page($home->refresh())->assertSee('is the original now')->assertSee('Accept that it is home');
    $this->post("/runs/{$home->id}/accept")->assertSessionHasErrors('home');
    $this->post("/runs/{$home->id}/accept", ['sure' => '1'])->assertRedirect($home->page());
    expect($this->away->machines())->toBe([]);
    $page($home)->assertDontSee('Accept that it is home');
    $this->post("/runs/{$home->id}/accept", ['sure' => '1'])->assertNotFound();
    $this->home->stop('berth', true);
});

/** The name server of sorrel.example, known, and berth's name at it. */
function namesOfBerth(mixed $test): NameServerAtWork
{
    $server = new NameServerAtWork(['berth' => '192.0.2.10', 'gate' => '192.0.2.30']);
    $said = ["--address=127.0.0.1:{$server->service->port}", '--zone=sorrel.example', "--key={$server->service->keyFile()}"];
    $test->told(0, 'name-server', 'add', 'lighthouse', ...$said);
    $test->told(0, 'machine-name', 'add', 'Berth.sorrel.example', '--of=berth');

    return $server;
}

it('has its name lead to what stands in, home again, and back if that was not right', function (): void {
    $this->actingAs($this->person(Role::Operator));
    $server = namesOfBerth($this);
    $run = (string) ($this->elsewhere)('--whole', '--start')['run'];
    expect($server->says('berth.sorrel.example'))->toBe('192.0.2.10'); // not before the original is surely down
    $this->home->start('berth');
    $this->told(3, 'stand-in', $run, '--address=198.51.100.7');
    expect($server->says('berth.sorrel.example'))->toBe('192.0.2.10');
    $this->home->stop('berth', true);
    $told = $this->told(0, 'stand-in', $run, '--address=198.51.100.7');
    expect($told['names'][0])->toBe([
        'name' => 'berth.sorrel.example', 'from' => ['addresses' => ['192.0.2.10'], 'ttl' => 60],
        'to' => ['addresses' => ['198.51.100.7'], 'ttl' => 60],
    ])->and($server->says('berth.sorrel.example'))->toBe('198.51.100.7')
        ->and(TrailEntry::query()->where('what', 'like', 'berth.sorrel.example leads to 198.51.100.7; who asked%')->count())->toBe(1);
    $this->get("/runs/$run")->assertSee('was led to')->assertSee('198.51.100.7');

    $home = $this->told(0, 'go-home', $run);
    $checks = array_column($home['checks'], 'result', 'check');
    expect($checks['berth.sorrel.example leads to where it is'])->toBe('passed')
        ->and($server->says('berth.sorrel.example'))->toBe('192.0.2.10');
    $this->told(0, 'put-back', (string) $home['run'], '--also-changed');
    expect($server->says('berth.sorrel.example'))->toBe('198.51.100.7');

    // To another address at home; and one that somebody has changed meanwhile stays as it is.
    $server->open()->lead(DomainName::of('berth.sorrel.example'), Addresses::of(['198.51.100.7']), Addresses::of(['203.0.113.9']));
    $home = $this->told(4, 'go-home', $run, '--address=192.0.2.11');
    $details = array_column($home['checks'], 'detail', 'check');
    expect($details['berth.sorrel.example leads to where it is'])->toContain('somebody has changed it')
        ->and($server->says('berth.sorrel.example'))->toBe('203.0.113.9')
        ->and(original())->toBe(['ketch', 'berth']);
    $server->remove();
});

it('has its name lead where it led before when what stood in is dropped', function (): void {
    $this->actingAs($this->person(Role::Operator));
    $server = namesOfBerth($this);
    $run = (string) ($this->elsewhere)('--whole')['run'];
    $this->post("/runs/$run/stand-in", ['address' => '198.51.100.8'])->assertSessionHasNoErrors();
    expect($server->says('berth.sorrel.example'))->toBe('198.51.100.8');
    $this->told(0, 'put-back', $run);
    expect($server->says('berth.sorrel.example'))->toBe('192.0.2.10')->and(original())->toBe(['ketch', 'berth']);
    $server->remove();
});

it('stands in only if its name can be led there', function (): void {
    $this->actingAs($this->person(Role::Operator));
    $server = namesOfBerth($this);
    Workload::query()->create(['name' => 'gate', 'kind' => 'machine', 'site' => 'boathouse']);
    $this->told(0, 'machine-name', 'add', 'gate.sorrel.example', '--of=gate');
    $run = (string) ($this->elsewhere)('--whole')['run'];
    $this->get("/runs/$run")->assertSee('berth.sorrel.example')->assertSee('Its address at skiff');
    $refused = fn (string $address): string => $this->told(3, 'stand-in', $run, "--address=$address")['error'];
    expect($refused('192.0.2.30'))->toContain('192.0.2.30 is taken: gate.sorrel.example leads to it')
        ->and($refused('pier'))->toContain('is no address');
    $this->post("/runs/$run/stand-in", ['address' => '192.0.2.30'])->assertSessionHasErrors('home');
    $this->told(2, 'machine-name', 'add', 'gate.sorrel.example', '--of=nobody');
    $this->told(2, 'name-server', 'add', 'other', '--address=127.0.0.1', '--zone=sorrel.example', "--key={$server->service->keyFile()}");
    expect($this->told(3, 'machine-name', 'add', 'berth.other.example', '--of=berth')['error'] ?? '')->toContain('no name server is known');

    $server->end();
    expect($refused('198.51.100.7'))->toContain('does not answer')->and(Substitute::query()->count())->toBe(0);
    $told = $this->told(0, 'name-server', 'list')['servers'][0];
    expect(array_column($told['names'], 'workload', 'name'))->toBe(['berth.sorrel.example' => 'berth', 'gate.sorrel.example' => 'gate'])
        ->and($told['names'][0]['failure'])->toContain('does not answer');
    $server->begin();
    $this->told(0, 'stand-in', $run, '--address=198.51.100.7');
    $this->told(0, 'machine-name', 'remove', 'gate.sorrel.example');
    $this->told(0, 'name-server', 'remove', 'lighthouse');
    expect($server->says('berth.sorrel.example'))->toBe('198.51.100.7');
    $server->remove();
});
