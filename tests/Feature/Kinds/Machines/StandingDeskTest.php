<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Jobs\PutBackRun;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\HypervisorHostPolicy;
use App\Kinds\Machines\Order\MachineSaid;
use App\Kinds\Machines\Order\MachineSheet;
use App\Kinds\Machines\Standing\FollowPoints;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\SettleWhenDue;
use App\Kinds\Machines\Standing\Standing;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\View\WaitingThing;
use App\View\WaitingThings;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/** Machines that stand on their sets, on the pages. */
beforeEach(function (): void {
    array_map(unlink(...), glob(Instance::folder('serving').'/*') ?: []);
    $this->helpers = new HelpersAtWork;
    $this->host = new HypervisorAtWork;
    $this->machine = Machine::taken($this);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    $this->operator = $this->person(Role::Operator);
    $this->actingAs($this->operator);
});

afterEach(function (): void {
    $this->host->remove();
    $this->helpers->end();
});

/** @return Run a machine that stands, of the command line */
function stoodUp(mixed $test, string ...$more): Run
{
    $told = $test->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', '--stand-up', '--on=ketch', '--json', ...$more);
    expect($told->code)->toBe(0, $told->text);

    return Run::query()->findOrFail($told->json()['run']);
}

/** What a worker does with the run that was ordered last. */
function carriedByWorker(): Run
{
    $run = Run::query()->orderByDesc('id')->firstOrFail();
    (new CarryOutRun($run->id))->handle();

    return $run->refresh();
}

/** @return list<WaitingThing> what waits on the desk because something stands */
function waitsForStanding(mixed $test): array
{
    return array_values(
        array_filter(WaitingThings::of($test->operator), fn (WaitingThing $thing): bool => str_starts_with($thing->id, 'standing-')),
    );
}

it('is ordered on the worksheet, with the time by which somebody decides, and settled from the page of its run', function (): void {
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->where('name', 'berth')->value('id'),
        'requester_id' => $this->operator->id,
        'summary' => 'The machine is gone',
        'reason' => 'It is needed',
        'wanted_at' => '2026-10-02 18:00:00',
        'due_at' => now()->addHour(),
    ])->refresh();
    $url = "/requests/{$request->id}";
    $host = HypervisorHost::query()->value('id');
    $this->post("$url/machine", ['settle' => 'where', 'to' => 'hypervisor', 'hypervisor' => $host])->assertSessionHasNoErrors();
    $this->get("$url?show=how")->assertOk()->assertSee('Stood up on its sets')->assertSee('to settle');
    $this->post("$url/machine", ['settle' => 'way', 'way' => 'stand-up'])->assertSessionHasNoErrors();
    $this->post("$url/machine", ['settle' => 'place', 'until' => 'soon'])->assertSessionHasErrors('until');
    $this->post("$url/machine", ['settle' => 'place', 'until' => '2099-03-01T08:00'])->assertSessionHasNoErrors();
    $this->get("$url?show=where")->assertOk()->assertSee('2099-03-01T08:00')->assertSee('started at once');
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())->toBe([])
        ->and(MachineSaid::of($request)->until)->toBe((new DateTimeImmutable('2099-03-01T08:00', new DateTimeZone($this->operator->zone)))
        ->getTimestamp());
    $this->get("$url?show=preview")->assertOk()->assertSee('off its sets')->assertSee('to be decided about by Sun 1 Mar 2099');

    $this->post("$url/run", ['order' => $sheet->fingerprint()])->assertSessionHasNoErrors();
    $run = carriedByWorker();
    expect([$run->state, $run->outcome['right']])->toBe(['done', true]);
    $this->get("$url?show=proof")->assertOk()->assertSee('reads what it did not write from its sets')->assertSee('Drop it');
    $this->get('/')->assertSee("berth.standing-run-{$run->id} at ketch stands on its sets: settle it, or drop it");
    $this->get("/hypervisors/$host/machines/berth.standing-run-{$run->id}")->assertOk()->assertSee('settle it, or drop it');
    $this->get('/estate')->assertSee('runs off its sets');

    $this->post("/runs/{$run->id}/settle", ['limit' => 'fast'])->assertSessionHasErrors('limit');
    $this->get("/runs/{$run->id}")->assertSee('Storage that system comes to')->assertSee('fast,');
    $this->post("/runs/{$run->id}/settle", ['storages' => ['system' => 'attic']])->assertSessionHasErrors('run');
    $this->post("/runs/{$run->id}/settle", ['limit' => '500', 'storages' => ['system' => 'fast', 'data' => 'bulk']])
        ->assertSessionHasNoErrors();
    $settled = carriedByWorker();
    expect($this->host->open()->machine('berth')->storages)->toBe(['system' => 'fast', 'data' => 'bulk']);
    expect([$settled->state, $settled->outcome['right'] ?? null, $settled->failure])->toBe(['done', true, null]);
    $this->get("$url?show=proof")->assertOk()->assertSee('on its own storage')->assertDontSee('reads what it did not write');
    $this->get("/runs/{$settled->id}/page")->assertOk();
    $this->get("/runs/{$run->id}")->assertOk();
    expect(TrailEntry::query()->where('what', 'like', "Run {$settled->id} was ordered:%")->exists())->toBeTrue()
        ->and(waitsForStanding($this))->toBe([]);
    $this->post("/runs/{$run->id}/settle")->assertSessionHasErrors('run');
});

it('is settled at the time that was said, and waits for somebody until it is decided', function (): void {
    $run = stoodUp($this, '--until=2099-01-01T00:00Z');
    expect(waitsForStanding($this)[0]->weight)->toBe(65);
    $this->post("/runs/{$run->id}/settle", ['at' => '2020-01-01T00:00'])->assertSessionHasErrors('run');
    $at = now()->addHours(3)->setTimezone($this->operator->zone);
    $said = ['at' => $at->format('Y-m-d\TH:i'), 'limit' => '70', 'storages' => ['data' => 'fast']];
    $this->post("/runs/{$run->id}/settle", $said)->assertSessionHasNoErrors();
    $standing = Standing::ofRun($run);
    expect($standing->settle_at->diffInMinutes($at, true))->toBeLessThan(1.1)->and(waitsForStanding($this)[0]->weight)->toBe(35);
    $this->get("/runs/{$run->id}")->assertSee('It is settled from');
    (new SettleWhenDue)->handle();
    expect($standing->refresh()->settled_by)->toBeNull();
    $this->travel(4)->hours();
    (new SettleWhenDue)->handle();
    carriedByWorker();
    expect($standing->refresh()->ended)->toBe(Standing::SETTLED)
        ->and([$standing->settling->plan['limit'], $standing->settling->plan['storages']])->toBe([70, ['data' => 'fast']])
        ->and($standing->settling->state)->toBe('done');
});

it('says when nobody has decided in time, and when nobody serves its disks', function (): void {
    $run = stoodUp($this, '--until='.now()->addHour()->format('Y-m-d\TH:i\Z'));
    $this->travel(2)->hours();
    expect(waitsForStanding($this)[0]->what)->toContain('should have been decided about');
    $this->get("/runs/{$run->id}")->assertSee('Somebody wanted to have decided by');
    $this->travelBack();
    $this->helpers->end();
    while (ServedDisks::of($run)->isServed()) {
        usleep(20_000); // who serves ends a moment after who keeps it running
    }
    expect(waitsForStanding($this)[0]->what)->toContain('nobody serves its disks');
    $this->get("/runs/{$run->id}")->assertSee('what it reads waits');
    $this->helpers->begin();
    $this->post("/runs/{$run->id}/put-back")->assertSessionHasNoErrors();
    (new PutBackRun($run->id, false))->handle();
    expect(Standing::ofRun($run)->ended)->toBe(Standing::DROPPED)->and($this->host->open()->machines())->toBe([]);
});

it('is typed at while it stands, which the trail keeps, and not any more once it is settled', function (): void {
    $run = stoodUp($this);
    $machine = '/hypervisors/'.HypervisorHost::query()->value('id')."/machines/berth.standing-run-{$run->id}";
    $this->post("$machine/look");
    $this->get($machine)->assertOk();
    foreach (['', "two\nlines", "\e[A", str_repeat('x', 201)] as $odd) {
        $this->post("$machine/type", ['line' => $odd])->assertSessionHasErrors('line');
    }
    $this->post("$machine/type", ['line' => 'uname -a'])->assertRedirect($machine)->assertSessionHasNoErrors();
    expect(TrailEntry::query()->where('what', 'like', 'Typed at the serial line of berth.standing-run-%: uname -a')->count())->toBe(1);
    $this->actingAs($this->person(Role::Auditor))->post("$machine/type", ['line' => 'ls'])->assertForbidden();
    $this->actingAs($this->operator);
    $this->told(0, 'settle', (string) $run->id);
    $settled = str_replace("berth.standing-run-{$run->id}", 'berth', $machine);
    $this->get($settled)->assertOk()->assertDontSee('Type a line');
    $this->post("$settled/type", ['line' => 'ls'])->assertNotFound();
});

it('is looked into, turned off and settled by nobody who does not see its workload or may not work with it', function (): void {
    $run = stoodUp($this);
    $host = HypervisorHost::query()->sole();
    $name = "berth.standing-run-{$run->id}";
    $policy = new HypervisorHostPolicy;
    $other = $this->person(Role::Operator, ['office']);
    expect([$policy->turn($this->operator, $host, $name), $policy->turn($other, $host, $name)])->toBe([true, false]);
    $this->actingAs($other)->post("/runs/{$run->id}/settle")->assertForbidden();
    $this->actingAs($this->person(Role::Auditor))->post("/runs/{$run->id}/settle")->assertForbidden();
});

it('shows on the pages what follows, and starts it from there', function (): void {
    $told = $this->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', '--follow=15', '--on=ketch', '--json')->json();
    $this->get("/runs/{$told['run']}")->assertOk()->assertSee('follows the newest point every 15 minutes')->assertSee('Take the last step');
    $this->get('/')->assertSee('berth at ketch follows, ');
    $this->post("/runs/{$told['run']}/settle")->assertSessionHasNoErrors();
    $run = carriedByWorker();
    expect([$run->state, $run->set_name, $run->outcome['right']])->toBe(['done', 'berth.incr.20261003T020000Z', true])
        ->and($this->host->open()->machine('berth')->isRunning())->toBeTrue();
    (new FollowPoints)->handle();
    $this->get("/runs/{$told['run']}")->assertOk()->assertDontSee('Take the last step');
});
