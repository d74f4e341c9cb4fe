<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\Settle;
use App\Kinds\Machines\Standing\SettleWish;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Hold;
use App\Models\Run;
use App\Models\Store;
use Illuminate\Support\Facades\Queue;
use Kaiseki\StandIns\Hypervisor\Qmp;
use Symfony\Component\Process\Process;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/*
 * Machines that stand on their sets, at a real stand-in hypervisor; what their disks hold in the end is compared with what qemu-img makes
 * of the same images.
 */

beforeEach(function (): void {
    array_map(unlink(...), glob(Instance::folder('serving').'/*') ?: []);
    $this->helpers = new HelpersAtWork;
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->machine = Machine::taken($this);
    $this->at = '2026-10-02T12:00:00Z';
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}", '--site=boathouse');
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    $this->helpers->end();
    expect($this->host->left())->toBe([])->and($this->helpers->said())->toBe('');
});

it('stands a machine up off its sets, settles it while it runs, and lets nobody remove the set meanwhile', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch', '--until=2099-01-01T00:00Z');
    $stands = "berth.standing-run-{$told['run']}";
    $seen = $this->hypervisor->machine($stands);
    expect($told['stands_as'])->toBe($stands)
        ->and(array_column($told['checks'], 'result'))->toBe(['passed', 'not seen', 'passed'])
        ->and([$seen->isRunning(), $seen->sources])->toBe([true, ['system', 'data']])
        ->and(Hold::query()->whereNull('lifted_at')->count())->toBe(1);
    $listed = $this->told(0, 'standing')['standing'];
    expect([count($listed), $listed[0]['machine'], $listed[0]['until'], $listed[0]['served']])
        ->toBe([1, $stands, '2099-01-01T00:00:00Z', true]);

    $this->host->guestWrites('data', 99, 0, 65_536);
    $settled = $this->told(0, 'settle', (string) $told['run']);
    expect(array_column($settled['checks'], 'result'))->toBe(['passed', 'passed'])
        ->and($settled['checks'][1]['detail'])->toBe('79 blocks compared, 1 block written since')
        ->and($this->hypervisor->machine('berth')->sources)->toBe([])
        ->and($this->told(0, 'standing')['standing'])->toBe([])
        ->and(Hold::query()->whereNull('lifted_at')->count())->toBe(0)
        ->and(ServedDisks::all())->toBe([]);
    $this->hypervisor->stop('berth', true);
    $set = 'berth.incr.20261002T020000Z';
    expect(hash('sha256', HypervisorAtWork::content($this->hypervisor, 'berth', 'system')))->toBe($this->machine->digest($set, 'system'));
    $this->machine->digest($set, 'data');
    $data = substr_replace((string) file_get_contents($this->scratch()->at('theirs-data.raw')), str_repeat('c', 65_536), 0, 65_536);
    expect(HypervisorAtWork::content($this->hypervisor, 'berth', 'data') === $data)->toBeTrue();

    // It is undone by the run that stood it up: what was written since is not taken along unasked.
    $left = $this->told(4, 'put-back', (string) $told['run']);
    expect($left['left'][0]['because'])->toContain('changed since');
    $this->told(0, 'put-back', (string) $told['run'], '--also-changed');
    expect($this->hypervisor->machines())->toBe([]);
});

it('is settled to another storage, disk by disk, with what it has written, and is checked there', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch', '--storage=fast');
    $run = (string) $told['run'];
    expect($this->told(3, 'settle', $run, '--storage=attic')['error'])->toContain('has no storage attic: there are fast, bulk')
        ->and($this->told(3, 'settle', $run, '--storage=keel=bulk')['error'])->toContain('It has no disk keel: there are system, data');
    $this->told(2, 'settle', $run, '--storage=data=');
    $this->host->guestWrites('data', 99, 0, 65_536);

    $settled = $this->told(0, 'settle', $run, '--storage=data=bulk', '--speed=900');
    $machine = $this->hypervisor->machine('berth');
    expect(array_column($settled['checks'], 'result'))->toBe(['passed', 'passed'])
        ->and($settled['checks'][1]['detail'])->toBe('79 blocks compared, 1 block written since')
        ->and([$machine->sources, $machine->storages, $machine->isRunning()])->toBe([[], ['system' => 'fast', 'data' => 'bulk'], true])
        ->and(Run::query()->findOrFail($settled['run'])->plan['sentence'])->toContain('and all of its disk data to bulk');
    $this->hypervisor->stop('berth', true);
    $this->machine->digest('berth.incr.20261002T020000Z', 'data');
    $data = substr_replace((string) file_get_contents($this->scratch()->at('theirs-data.raw')), str_repeat('c', 65_536), 0, 65_536);
    expect(HypervisorAtWork::content($this->hypervisor, 'berth', 'data') === $data)->toBeTrue()
        ->and(glob("{$this->host->folder}/storages/fast/*data*"))->toBe([]);
    $this->told(0, 'put-back', $run, '--also-changed');
    expect($this->hypervisor->machines())->toBe([])->and(glob("{$this->host->folder}/storages/*/*"))->toBe([]);
});

it('goes on with a settling to another storage that was killed, and refuses one that has no room', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch', '--storage=bulk');
    $run = Run::query()->findOrFail($told['run']);
    $facts = json_decode((string) file_get_contents("{$this->host->folder}/host.json"), true);
    $withFast = fn (int $bytes): int|false => file_put_contents(
        "{$this->host->folder}/host.json",
        json_encode(['storages' => ['fast' => $bytes] + $facts['storages']] + $facts),
    );
    $withFast(1 << 20);
    expect($this->told(3, 'settle', (string) $run->id, '--storage=fast')['error'])->toContain('has 1 MiB free', 'are needed');
    $withFast(1 << 30);

    // As if its worker were killed while all of a disk had come, and the hypervisor's process in the middle of changing over.
    $order = (new Settle(Standing::ofRun($run)))->order(new SettleWish(null, [], 'fast'), null);
    $this->hypervisor->settle("berth.standing-run-{$run->id}", 'system', 0, 'fast');
    while (! $this->hypervisor->settling("berth.standing-run-{$run->id}")['system']->isReady) {
        usleep(20_000);
    }
    Qmp::to((glob("{$this->host->folder}/run/*.qmp") ?: [''])[0])->call('stop');
    $file = "{$this->host->folder}/machines/berth.standing-run-{$run->id}.json";
    $kept = json_decode((string) file_get_contents($file), true);
    file_put_contents($file, json_encode(array_replace_recursive($kept, ['storages' => ['system' => 'fast']])));

    (new CarryOutRun($order->id))->handle();
    expect([$order->refresh()->state, array_column($order->outcome['checks'], 'result')])->toBe(['done', ['passed', 'passed']])
        ->and($this->hypervisor->machine('berth')->storages)->toBe(['system' => 'fast', 'data' => 'fast'])
        ->and(glob("{$this->host->folder}/storages/bulk/*"))->toBe([])
        ->and(Qmp::to((glob("{$this->host->folder}/run/*.qmp") ?: [''])[0])->call('query-status')['status'])->toBe('running');
});

it('is settled as soon as it answers, if that was ordered', function (): void {
    Queue::fake();
    $up = ['restore', 'berth', "--at={$this->at}", '--on=ketch'];
    expect($this->told(2, ...[...$up, '--background', '--annex', '--stand-up'])['error'])->toContain('not with --background');
    $told = $this->told(0, ...[...$up, '--background', '--limit=500']);
    $settles = Run::query()->findOrFail($told['settled_by']);
    Queue::assertPushed(CarryOutRun::class, fn (CarryOutRun $job): bool => $job->run === $settles->id);
    $sentence = Run::query()->find($told['run'])->plan['sentence'];
    expect([$settles->plan['way'], $settles->plan['limit'], $settles->state])->toBe(['settle', 500, 'queued'])
        ->and($sentence)->toEndWith('then start it, and bring it to its own storage while it runs.');
    (new CarryOutRun($settles->id))->handle();
    expect([$settles->refresh()->state, $this->hypervisor->machine('berth')->sources])->toBe(['done', []]);
});

it('is the original while it stands in its place: sets are made of it, and what came is not claimed to be known then', function (): void {
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $this->host->machine('berth', system: $this->scratch()->file('empty', str_repeat("\0", 512)));
    $this->told(0, 'machine', 'known', 'berth', '--on=ketch', '--as=berth');
    $this->hypervisor->delete('berth');
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch');
    $this->host->guestWrites('data', 99, 0, 65_536);
    $set = $this->told(0, 'protect', 'berth', '--level=incr');
    $this->told(0, 'restore', 'berth', "--point={$set['set']}", '--disk=data', '--format=raw', "--to={$this->scratch()->at('out')}");
    expect(file_get_contents($this->scratch()->at('out/berth.data.raw'), false, null, 0, 65_536) === str_repeat('c', 65_536))->toBeTrue();
    $settled = $this->told(0, 'settle', (string) $told['run']);
    expect(array_column($settled['checks'], 'result'))->toBe(['not seen', 'not seen']);
    $this->told(0, 'protect', 'berth', '--level=incr');
});

it('drops what stands, with what it wrote, and what it had set aside is there again', function (): void {
    foreach (['system', 'data'] as $disk) {
        $this->machine->digest('berth.incr.20261003T020000Z', $disk);
    }
    $this->host->machine('berth', system: $this->scratch()->at('theirs-system.raw'), data: $this->scratch()->at('theirs-data.raw'));
    $stand = ['restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch'];
    expect($this->told(3, ...$stand)['error'])->toContain('There is a machine berth at ketch already');
    $told = $this->told(0, ...[...$stand, '--set-aside']);
    expect(array_keys($this->hypervisor->machines()))->toBe([$told['set_aside'], "berth.standing-run-{$told['run']}"]);
    $this->told(0, 'discard', (string) $told['run']);
    expect(array_keys($this->hypervisor->machines()))->toBe(['berth'])
        ->and(Standing::query()->value('ended'))->toBe(Standing::DROPPED)
        ->and(ServedDisks::all())->toBe([]);
    $this->told(2, 'discard', (string) $told['run']);
    $this->told(2, 'settle', '4711');
});

it('serves on after who serves was killed, and gives a block that is damaged from another copy', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch');
    (new Process(['pkill', '-KILL', '-f', "machine:serve r{$told['run']}"]))->run();
    $settled = $this->told(0, 'settle', (string) $told['run'], '--speed=50');
    expect(array_column($settled['checks'], 'result'))->toBe(['passed', 'passed']);
});

it('says what cannot be given, and stands on; settling goes on once it can', function (): void {
    $told = $this->told(0, 'restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch');
    $image = $this->machine->image('berth.full.20261001T020000Z', 'data');
    $whole = (string) file_get_contents($image);
    $this->helpers->end();
    file_put_contents($image, str_repeat('x', strlen($whole)));
    $this->helpers->begin();
    $failed = $this->told(4, 'settle', (string) $told['run']);
    expect($failed['error'])->toContain('The disk data does not come over')
        ->and($failed['error'])->toContain('What has come stays')
        ->and($this->hypervisor->machine("berth.standing-run-{$told['run']}")->isRunning())->toBeTrue()
        ->and($this->told(0, 'standing')['standing'][0]['refused'])->toBeGreaterThan(0);

    file_put_contents($image, $whole);
    $this->helpers->end();
    $this->helpers->begin();
    $this->told(0, 'resume', (string) $failed['run']);
    expect($this->hypervisor->machine('berth')->sources)->toBe([])->and(Run::query()->findOrFail($failed['run'])->state)->toBe('done');
});

it('refuses what nobody can stand on', function (): void {
    $stand = ['restore', 'berth', "--at={$this->at}", '--stand-up', '--on=ketch'];
    expect($this->told(3, ...[...$stand, '--until=2020-01-01T00:00Z'])['error'])->toContain('has passed')
        ->and($this->told(2, ...[...$stand, '--until=soon'])['error'])->toContain('not a moment')
        ->and($this->told(2, ...[...$stand, '--whole'])['error'])->toContain('Say one of')
        ->and($this->told(2, 'restore', 'berth', "--at={$this->at}", '--whole', '--on=ketch', '--until=2099-01-01T00:00Z')['error'])
        ->toContain('goes with --stand-up');
    unlink($this->machine->image('berth.full.20261001T020000Z', 'data'));
    expect($this->told(3, ...[...$stand, '--part'])['error'])->toContain('cannot be given back');
    expect($this->hypervisor->machines())->toBe([])->and(ServedDisks::all())->toBe([]);
});
