<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Blank\BlankOrder;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Machines\Run\WayAtHypervisor;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\StandIns\SorrelSoundMachine;
use Tests\Support\Answer;
use Tests\Support\HypervisorAtWork;

// A machine onto a blank one at a hypervisor: its page, what stands in the way, and putting back. tests/Instance/BlankTest.php runs it.

beforeEach(function (): void {
    $source = new SorrelSoundMachine($this->scratch()->at('work'), $this->scratch()->at('images'), 'gate');
    $source->begin(new DateTimeImmutable('2026-10-20'));
    $source->night(new DateTimeImmutable('2026-10-20T23:10:00Z'), 'full');
    $this->kaiseki('adopt', $this->scratch()->at('images'), '--as=gate', '--kind=machine');
    $this->host = new HypervisorAtWork(memory: 400, slots: 1);
    $this->add = fn (string ...$more): Answer => $this->kaiseki('hypervisor', 'add', 'boat', "--folder={$this->host->folder}", ...$more);
    ($this->add)('--line-network=office', '--line=192.0.2.1:443');
    $this->actingAs($this->operator = $this->person(Role::Operator));
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $this->operator->id, 'summary' => 'Does it come back?',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $this->page = "/requests/{$this->request->id}/blank";
    $this->shown = function (array $said = []): string {
        $page = (string) $this->get($this->page.'?'.http_build_query($said))->assertOk()->getContent();

        return preg_match('~name="shown" value="(\w{64})"~', $page, $m) === 1 ? $m[1] : '';
    };
    $this->order = ['restore', 'gate', '--at=2026-10-21T12:00:00Z', '--to-blank=boat'];
    $this->blockers = fn (string ...$more): array => $this->kaiseki(...[
        ...$this->order, '--dry-run', '--json', ...$more,
    ])->json()['blockers'];
    $this->wrong = fn (string ...$said): string => $this->kaiseki(...$said)->text;
});

afterEach(fn () => $this->host->remove());

it('goes from the page to an order, which is the one that was shown', function (): void {
    Queue::fake([CarryOutRun::class]);
    $this->get("/requests/{$this->request->id}?show=where")->assertSee($this->page);
    $this->get($this->page)->assertSee('Read how its disks were laid out')->assertDontSee('Begin the drill');
    $this->post($this->page, ['do' => 'read'])->assertRedirect();
    $this->get($this->page)->assertSee(['Drill: bring gate as of', 'at boat', 'vda, 80 MiB, system', 'Begin the drill',
        'By what it is told from another is not known']);
    $shown = ($this->shown)();

    // Something else was chosen than what was shown: it is shown first.
    $this->post($this->page, ['do' => 'order', 'then' => 'started', 'shown' => $shown])->assertSessionHasErrors('order');
    expect(Run::query()->count())->toBe(0);
    $this->get("$this->page?then=started&machine=gate-2&bus=nvme&memory=384")->assertSee(['leave it there as gate-2, started', 'nvme0n1']);
    foreach ([['machine' => '../gate'], ['memory' => '-1'], ['bus' => 'floppy'], ['asked' => 'no path', 'answers' => '/a']] as $wrong) {
        $this->post($this->page, $wrong + ['do' => 'order', 'shown' => $shown])->assertSessionHasErrors(array_key_first($wrong));
    }

    $this->post($this->page, ['do' => 'order', 'shown' => $shown])->assertRedirect('/runs/'.Run::query()->value('id'));
    $run = Run::query()->sole();
    Queue::assertPushed(CarryOutRun::class);
    $order = BlankOrder::fromArray($run->plan);
    expect($order->isDrill)->toBeTrue()->and($order->toArray())->toEqual($run->plan)
        ->and($order->settings->networks())->toBe(['harbour'])->and($order->storages)->toBe(['system' => 'bulk', 'data' => 'bulk'])
        ->and(TrailEntry::query()->latest('id')->value('what'))->toContain("Run {$run->id} was ordered: Drill: bring gate")
        ->and((new MachineCarrier)->touches($run)->places[0]->replaces)->toBeFalse();
    $this->get("/runs/{$run->id}")->assertOk();
    $this->get($this->page)->assertDontSee('Drilled last');
    $run->update(['state' => 'done', 'started_at' => now()->subMinute(), 'ended_at' => now(), 'outcome' => ['right' => false]]);
    $this->get($this->page)->assertSee(["run {$run->id}", 'not all']);
});

it('says what stands in the way, before anything is made', function (): void {
    expect(($this->blockers)())->toBe([])
        ->and(($this->blockers)('--drill'))->toBe([])
        ->and(($this->blockers)('--memory=64'))->toBe(['A medium needs 320 MiB of memory to work in.'])
        ->and(($this->blockers)('--memory=500'))->toBe(['It needs 500 MiB of memory; 400 are free at boat.'])
        ->and(($this->blockers)('--network=moon'))->toBe(['boat has no network moon; it has harbour, office.'])
        ->and(($this->blockers)('--storage=cellar'))->toBe(['boat has no storage cellar.'])
        ->and(($this->blockers)('--without=system')[0] ?? '')->toBe('')
        ->and(($this->blockers)('--size=system.2=1048576')[0])->toContain('Partition 2 of system needs at least');
    $this->host->open()->create(new MachineSettings('gate', []), []);
    expect(($this->blockers)())->toBe(['There is a machine gate at boat already: give this one another name.'])
        ->and(($this->blockers)('--drill'))->toBe([])
        ->and(($this->blockers)('--name=gate-2'))->toBe([]);
    $this->host->open()->start('gate');
    expect(($this->blockers)('--drill'))->toContain('boat runs 1 machines, and no more can.');
    HypervisorHost::query()->update(['line' => null]);
    expect(($this->blockers)('--drill')[0])->toContain('hypervisor add boat --line-network=NETWORK --line=HOST:PORT');
    expect(($this->wrong)(...[...$this->order, '--onto=system=vdb']))->toContain('--onto goes with --to-metal')
        ->and(($this->wrong)('restore', 'gate', '--at=2026-10-21', '--to-blank=moon'))->toContain('There is no hypervisor "moon"');
});

it('keeps how a hypervisor is reached when it is made known again', function (): void {
    $line = fn (): array => HypervisorHost::query()->sole()->only(['line_network', 'line', 'site']);
    ($this->add)('--site=pier');
    expect($line())->toBe(['line_network' => 'office', 'line' => '192.0.2.1:443', 'site' => 'pier']);
    ($this->add)();
    expect($line()['site'])->toBe('pier')
        ->and(($this->wrong)('hypervisor', 'add', 'boat', "--folder={$this->host->folder}", '--line=x:1'))->toContain('Say both')
        ->and(($this->wrong)('hypervisor', 'add', 'boat', "--folder={$this->host->folder}", '--line-network=moon', '--line=x:1'))
        ->toContain('no network moon');
});

it('takes a machine away again that it left there, unless somebody used it', function (): void {
    $plan = $this->kaiseki(...[...$this->order, '--dry-run', '--json'])->json();
    $settings = MachineSettings::fromArray($plan['settings']);
    $hypervisor = $this->host->open();
    $hypervisor->create($settings, array_fill_keys($settings->diskNames(), 'fast'));
    Queue::fake([CarryOutRun::class]);
    $this->post($this->page, ['then' => 'off', 'machine' => 'gate-2', 'do' => 'order', 'shown' => ($this->shown)([
        'then' => 'off', 'machine' => 'gate-2',
    ])])->assertRedirect();
    $run = Run::query()->sole();
    $run->update(['state' => 'done', 'outcome' => ['placed' => true, 'right' => true], 'plan' => ['machine' => 'gate',
        'settings' => $settings->toArray()] + $run->plan]);
    $carrier = new MachineCarrier;
    // Nobody knows whether it changed: there is no mark of the run on it.
    $told = $carrier->putBack($run, false);
    expect($told->isWhole)->toBeFalse()->and($told->lines[1])->toContain('changed since: system, data')
        ->and($carrier->canBePutBack($run->refresh()))->toBeTrue();
    array_map(fn (string $disk) => $hypervisor->mark('gate', $disk, WayAtHypervisor::markOf($run)), $settings->diskNames());
    NbdDisk::with($hypervisor, 'gate', 'data', true, fn (NbdDisk $to) => null); // a look changes nothing, and voids its mark
    expect($carrier->putBack($run, false)->lines[1])->toContain('changed since: data');
    $hypervisor->mark('gate', 'data', WayAtHypervisor::markOf($run));
    expect($carrier->putBack($run, false)->isWhole)->toBeTrue()
        ->and($hypervisor->machine('gate'))->toBeNull()
        ->and($carrier->canBePutBack($run->refresh()))->toBeFalse();
});
