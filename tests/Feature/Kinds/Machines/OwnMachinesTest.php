<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Http\OwnMachinesController;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Own\OwnMachine;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Runs\RunRefusal;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\StandIns\SorrelSoundMachine;

// Machines that people bring onto other disks themselves: theirs and no others, as often as they may, and as any order is.

beforeEach(function (): void {
    Queue::fake([CarryOutRun::class]);
    $source = new SorrelSoundMachine($this->scratch()->at('work'), $this->scratch()->at('images'), 'gate');
    $source->begin(new DateTimeImmutable('2026-10-20'));
    $source->night(new DateTimeImmutable('2026-10-20T23:10:00Z'), 'full');
    $this->told(0, 'adopt', $this->scratch()->at('images'), '--as=gate', '--kind=machine');
    $this->gate = Workload::query()->sole();
    $this->gate->update(['group' => 'crew office']);
    [$this->owner, $this->other] = [$this->person(Role::Requester, ['crew office']), $this->person(Role::Requester, ['crew office'])];
    $this->allow = fn (string ...$more): array => $this->told(0, 'own-machines', 'allow', 'gate', ...$more);
    $disk = fn (string $name, int $mib, string $serial): array => [
        'name' => $name, 'bytes' => $mib << 20, 'sector' => 512, 'serial' => $serial,
    ];
    $this->bare = TargetMachine::said(Said::of([
        'firmware' => 'bios', 'memory' => 4 << 20, 'disks' => [$disk('sda', 200, 'AAA'), $disk('sdb', 60, 'BBB')],
    ]));
    /** Somebody makes a code, and starts a medium with it. */
    $this->enrol = function (User $who): Enrolment {
        $answer = $this->actingAs($who)->post("/own-machines/{$this->gate->id}/code")->assertRedirect();
        preg_match('~id="code">([^<]+)<~', (string) $this->followRedirects($answer)->getContent(), $m);
        Enrolment::enrol($m[1], $this->bare, '192.0.2.7');

        return Enrolment::query()->latest('id')->first();
    };
    $this->order = ['do' => 'order', 'confirm_sda' => 'AAA', 'confirm_sdb' => 'BBB'];
});

it('goes from a code to an order by the person whose machine it is, and by nobody else', function (): void {
    $this->actingAs($this->owner)->get('/own-machines')->assertForbidden();
    $this->get('/')->assertDontSee('Your machines');
    $this->post("/own-machines/{$this->gate->id}/code")->assertForbidden();
    ($this->allow)("--person={$this->owner->email}");
    $this->get('/')->assertSee('Your machines');
    $this->get('/own-machines')->assertOk()->assertSee('gate');
    $one = ($this->enrol)($this->owner);
    $page = OwnMachinesController::page($one);
    $this->get('/own-machines')->assertSee("enrolment {$one->id}");
    $this->post($page, ['do' => 'read'])->assertRedirect($page);
    $this->get($page)->assertOk()->assertSee(['sda, 200 MiB, AAA', 'To say that all on', (string) $one->phrase]);
    $this->post($page, ['confirm_sdb' => 'wrong'] + $this->order)->assertSessionHasErrors('order');
    expect(Run::query()->count())->toBe(0);

    // Another who may not, and the desk's own pages.
    $this->actingAs($this->other)->get($page)->assertForbidden();
    $this->post($page, $this->order)->assertForbidden();
    $this->actingAs($this->owner)->get($one->page())->assertForbidden();
    $this->post($one->page(), $this->order)->assertForbidden();

    $request = RecoveryRequest::query()->sole();
    $this->post($page, $this->order)->assertRedirect("/requests/{$request->id}");
    $run = Run::query()->sole();
    expect([$run->user_id, $run->request_id, $request->requester_id])->toBe([$this->owner->id, $request->id, $this->owner->id])
        ->and($run->isOwn())->toBeTrue()
        ->and(TrailEntry::query()->where('what', 'like', '%by the person whose machine it is: Bring gate%')->count())->toBe(1);
    RunRefusal::check($run);
    $this->get("/requests/{$request->id}")->assertOk();
    $one->update(['run_id' => $run->id]);
    $this->get($page)->assertOk()->assertDontSee('To say that all on');

    // What they were let do is asked again when it begins.
    $this->told(0, 'own-machines', 'end', 'gate', "--person={$this->owner->email}");
    expect(fn () => RunRefusal::check($run->refresh()))->toThrow(UnableToRestore::class, 'may not bring gate onto other disks any more')
        ->and($this->told(0, 'own-machines', 'list')['own_machines'])->toBe([]);
});

it('is good once, where that was said, and for all who see a group', function (): void {
    ($this->allow)('--group=crew office', '--once');
    $one = ($this->enrol)($this->other);
    $second = ($this->enrol)($this->owner);
    $page = OwnMachinesController::page($one);
    $this->actingAs($this->other)->post($page, ['do' => 'read']);
    $this->post($page, $this->order)->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    RunRefusal::check($run);
    expect($this->kaiseki('own-machines', 'list')->text)
        ->toContain("All who see crew office may bring gate onto other disks themselves, once, which was used by run {$run->id}.");
    $one->update(['run_id' => $run->id]);
    $this->get($page)->assertOk();
    $this->actingAs($this->owner)->post(OwnMachinesController::page($second), $this->order)->assertForbidden();
    $this->post("/own-machines/{$this->gate->id}/code")->assertForbidden();
    expect(OwnMachine::machines($this->owner)->all())->toBe([]);

    ($this->allow)('--group=piers');
    expect(OwnMachine::by($this->person(Role::Requester), $this->gate))->not->toBeNull() // who sees all groups sees that too
        ->and(OwnMachine::by($this->other, $this->gate))->toBeNull()
        ->and(OwnMachine::by($this->person(Role::Administrator), $this->gate))->toBeNull();

    // One that does not end is taken before one that does.
    ($this->allow)("--person={$this->owner->email}", '--once');
    ($this->allow)("--person={$this->owner->email}");
    expect(OwnMachine::by($this->owner, $this->gate)?->once)->toBeFalse();
    // Who does not see the machine's group has nothing of it.
    $far = $this->person(Role::Requester, ['piers']);
    ($this->allow)("--person={$far->email}");
    $this->actingAs($far)->get('/own-machines')->assertForbidden();
    expect($this->told(2, 'own-machines', 'allow', 'gate')['error'])->toContain('--person=ADDRESS')
        ->and($this->told(2, 'own-machines', 'allow', 'gate', '--person=nobody@x')['error'])->toContain('Nobody signs in')
        ->and($this->told(2, 'own-machines', 'end', 'gate', '--group=yard')['error'])->toContain('Nobody was allowed that');
});
