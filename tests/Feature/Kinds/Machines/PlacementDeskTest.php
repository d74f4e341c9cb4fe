<?php

declare(strict_types=1);

use App\Kinds\Kinds;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\MachineSheet;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\MeasuredRates;
use App\Kinds\Machines\Order\NewMachineStep;
use App\Kinds\Machines\Order\WayTimes;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\RunStep;
use App\Models\TargetRight;
use App\Models\Workload;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->machine = Machine::taken($this);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    $this->operator = $this->person(Role::Operator);
    $this->actingAs($this->operator);
    $this->request = fn (): RecoveryRequest => RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->where('name', 'berth')->value('id'),
        'requester_id' => $this->operator->id,
        'summary' => 'The machine is gone',
        'reason' => 'It is needed',
        'wanted_at' => '2026-10-02 18:00:00',
        'due_at' => now()->addHour(),
    ])->refresh();
});

afterEach(fn () => $this->host->remove());

/** Settles that the machine goes to the hypervisor, and how it stands there. */
function settleAtHypervisor(mixed $test, RecoveryRequest $request, string ...$place): void
{
    $id = HypervisorHost::query()->value('id');
    $url = "/requests/{$request->id}/machine";
    $test->post($url, ['settle' => 'where', 'to' => 'hypervisor', 'hypervisor' => $id])->assertSessionHasNoErrors();
    $test->post($url, ['settle' => 'place'] + $place)->assertSessionHasNoErrors();
}

it('brings a machine back at a hypervisor from its worksheet, whose pages ask nobody', function (): void {
    $request = ($this->request)();
    settleAtHypervisor($this, $request, storage: 'bulk', memory: '128', cards: 'none', limit: '50');
    $url = "/requests/{$request->id}";
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())->toBe([])->and($sheet->mayReplace())->toBeFalse();
    $this->host->end();
    foreach ([
        'where' => ['At ketch', '1024 of 1024 MiB'], 'how' => ['side by side', 'no machine berth stands there'],
        'preview' => ['128 MiB', 'storage bulk', 'no faster than 50 MB/s', 'does not say how the machine was configured'],
        'run' => ['Nothing that is there now will be touched'],
    ] as $show => $texts) {
        $page = $this->get("$url?show=$show")->assertOk()->assertSee('the whole machine, new');
        array_map($page->assertSee(...), $texts);
    }
    // It is silent now, which is found out before anything begins.
    $this->post("$url/run", ['order' => $sheet->fingerprint()]);
    expect(Run::query()->count())->toBe(0);
});

it('runs the order that was seen, and no other', function (): void {
    $request = ($this->request)();
    settleAtHypervisor($this, $request);
    $url = "/requests/{$request->id}";
    $seen = (new MachineSheet($request->refresh()))->fingerprint();
    $this->host->machine('berth', system: $this->scratch()->file('disk.raw', str_repeat('x', 65_536)));
    $this->post("$url/run", ['order' => $seen]);
    expect(Run::query()->count())->toBe(0);

    settleAtHypervisor($this, $request->refresh(), set_aside: '1');
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())->toBe([])->and($sheet->mayReplace())->toBeTrue();
    $this->post("$url/run", ['order' => $sheet->fingerprint()])->assertRedirect();
    $run = Run::query()->firstOrFail();
    $usual = MeasuredRates::now();
    expect([$usual->written, $usual->read, $usual->answers])->toBe([100e6, 250e6, 20.0]); // nothing was measured yet
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->failure)->toBeNull()
        ->and(MeasuredRates::now()->read)->toEqualWithDelta((8 << 20) / $run->steps()->where('position', 4)->firstOrFail()->seconds(), 1.0);
    $this->get("$url?show=proof")->assertOk()->assertSee('all of it is right')->assertSee($run->outcome['aside']);
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee('Set aside as');
    $this->get('/estate')->assertOk()->assertSee('ketch')->assertSee('kept by a run');
});

it('does not let somebody write to a hypervisor who may not', function (): void {
    $host = HypervisorHost::query()->firstOrFail();
    TargetRight::of($host)->update(['may_write' => false]);
    $request = ($this->request)();
    $this->post("/requests/{$request->id}/machine", ['settle' => 'where', 'to' => 'hypervisor', 'hypervisor' => $host->id])
        ->assertSessionHasErrors('hypervisor');
    $this->get("/requests/{$request->id}?show=where")->assertOk()->assertSee('No hypervisor is known that you may write to');
});

it('says what cannot be meant', function (array $said, string $field): void {
    $request = ($this->request)();
    $this->post("/requests/{$request->id}/machine", $said)->assertSessionHasErrors($field);
})->with([
    [['settle' => 'where', 'to' => 'hypervisor'], 'hypervisor'],
    [['settle' => 'where', 'to' => 'hypervisor', 'hypervisor' => 999_999], 'hypervisor'],
    [['settle' => 'place', 'machine' => '../etc'], 'machine'],
    [['settle' => 'place', 'memory' => '-1'], 'memory'],
    [['settle' => 'place', 'cards' => 'many'], 'cards'],
    [['settle' => 'way', 'way' => 'sideways'], 'way'],
]);

it('reckons how long one more takes to answer by how many stand already, and by what that took before', function (): void {
    $workload = Workload::query()->create(['name' => 'tern', 'kind' => 'machine', 'group' => 'piers']);
    $stood = function (int $beside, int $seconds) use ($workload): void {
        $run = Run::query()->create([
            'workload_id' => $workload->id, 'state' => 'done', 'plan' => ['way' => 'stand-up'], 'outcome' => ['beside' => $beside],
        ]);
        RunStep::query()->create([
            'run_id' => $run->id, 'position' => 5, 'name' => NewMachineStep::START, 'state' => 'done',
            'started_at' => '2026-11-01 10:00:00',
            'ended_at' => (new DateTimeImmutable('2026-11-01 10:00:00'))->modify("+$seconds seconds"),
        ]);
    };
    expect(MeasuredRates::now()->answersBeside(1))->toBe(40.0); // nothing was measured: twice the usual
    $stood(0, 8);
    $stood(0, 12);
    $stood(2, 24);
    $rates = MeasuredRates::now();
    expect(array_map($rates->answersBeside(...), [0, 1, 2, 5]))->toBe([10.0, 20.0, 24.0, 48.0])
        ->and(array_map($rates->isTriedBeside(...), [0, 1, 2]))->toBe([true, false, true]);
});

/*
 * Common practice: a gigabit network with other work on it moves 60 to 65 MB/s; so 5 TB come whole in 21 to 23 hours, the twentieth of
 * them that changed in 64 to 69 minutes, and 28 GB in 7 to 8 minutes. One that is stood up answers as soon as it starts, and owes the move.
 */
it('reckons what is moved at the rate that was measured, as is common practice', function (int $rate): void {
    $workload = Workload::query()->create(['name' => 'tern', 'kind' => 'machine', 'group' => 'piers']);
    $run = Run::query()->create([
        'workload_id' => $workload->id, 'state' => 'done', 'plan' => ['way' => 'whole'],
        'outcome' => ['disks' => [['data' => $rate * 1_000_000 * 100, 'size' => 10 ** 17]]], // reading them again takes no time here
    ]);
    foreach ([NewMachineStep::WRITE => 100, NewMachineStep::CHECK => 1] as $step => $seconds) {
        RunStep::query()->create([
            'run_id' => $run->id, 'position' => $seconds, 'name' => $step, 'state' => 'done', 'started_at' => '2026-11-01 10:00:00',
            'ended_at' => (new DateTimeImmutable('2026-11-01 10:00:00'))->modify("+$seconds seconds"),
        ]);
    }
    $rates = MeasuredRates::now();
    $times = fn (MachineWay $way, int $bytes, bool $isGone = false): WayTimes => WayTimes::reckoned(
        $way, $bytes, $bytes, $isGone, false, INF, $rates,
    );
    $whole = $times(MachineWay::Whole, 5 * 10 ** 12, true);
    expect($whole->standsStill / 3600)->toBeGreaterThan(21.0)->toBeLessThan(23.5)->and($whole->goesOn)->toBe(0.0)
        ->and($times(MachineWay::Rollback, 5 * 10 ** 12)->standsStill / 60)->toBeGreaterThan(64.0)->toBeLessThan(69.5)
        ->and($times(MachineWay::Whole, 28 * 10 ** 9, true)->standsStill / 60)->toBeGreaterThan(7.0)->toBeLessThan(8.0)
        ->and($times(MachineWay::Whole, 28 * 10 ** 9)->standsStill)->toBeLessThan(5.0); // made beside, while the old one goes on
    $stood = $times(MachineWay::StandUp, 5 * 10 ** 12, true);
    expect($stood->standsStill)->toBeLessThan(30.0)->and($stood->owed / 3600)->toBeGreaterThan(21.0);
})->with([60, 65]);
