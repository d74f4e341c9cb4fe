<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Blank\BlankOrder;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\Exchange;
use App\Kinds\Machines\Metal\KeptTrees;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Machines\Standing\FollowPoints;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Metal\TreeRecord;
use Kaiseki\StandIns\SorrelSoundMachine;

// A machine whose medium waits is kept in step with newer points. tests/Instance/MetalTest.php does it with a medium.

beforeEach(function (): void {
    Queue::fake([CarryOutRun::class]);
    $this->source = new SorrelSoundMachine($this->scratch()->at('work'), $this->scratch()->at('images'), 'gate');
    $this->source->begin(new DateTimeImmutable('2026-10-20'));
    $this->adopt = function (string $night, string $level): void {
        $this->source->night(new DateTimeImmutable($night), $level);
        $this->told(0, 'adopt', $this->scratch()->at('images'), '--as=gate', '--kind=machine');
    };
    ($this->adopt)('2026-10-20T23:10:00Z', 'full');
    $this->actingAs($this->operator = $this->person(Role::Operator));
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $this->operator->id, 'summary' => 'The gate moves',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $disk = fn (string $name, int $mib): array => ['name' => $name, 'bytes' => $mib << 20, 'sector' => 512, 'serial' => "S-$name"];
    [$one, $code] = Enrolment::open(Workload::query()->sole(), $this->request, $this->operator);
    $this->enrol = fn (int $version): ?array => Enrolment::enrol($code, TargetMachine::said(Said::of([
        'version' => $version, 'firmware' => 'bios', 'memory' => 4 << 20, 'disks' => [$disk('sda', 200), $disk('sdb', 60)],
    ])), '192.0.2.7');
    $this->one = $one;
    $this->page = $one->page();
    /** It is ordered, and a medium did all of it. */
    $this->brought = function (): Run {
        ($this->enrol)(2);
        $this->get($this->page);
        $this->post($this->page, ['do' => 'read']);
        $confirmed = ['confirm_sda' => 'S-sda', 'confirm_sdb' => 'S-sdb'];
        $this->post($this->page, ['do' => 'order', 'follow' => '15'] + $confirmed)->assertSessionHasNoErrors();
        $run = Run::query()->sole();
        $run->update(['state' => 'done', 'ended_at' => now(), 'outcome' => ['right' => true]]);
        $this->one->refresh()->update(['run_id' => $run->id, 'orders' => 1]);
        $this->one->inStep($run->set_id, 15);

        return $run;
    };
    $this->later = function (): void {
        $this->one->refresh()->update(['stepped_at' => now()->subHour(), 'seen_at' => now()]);
        (new FollowPoints)->handle();
        $this->one->refresh();
    };
});

it('takes a step when there is a newer point, one after the other, and tells why it cannot', function (): void {
    $run = ($this->brought)();
    expect($run->plan['follow'])->toBe(15)->and($run->plan['sentence'])->toContain('kept in step with newer points, every 15 min');
    ($this->later)();
    expect(Run::query()->count())->toBe(1)->and($this->one->because)->toBeNull();

    ($this->adopt)('2026-10-21T23:10:00Z', 'incr');
    (new FollowPoints)->handle(); // not due yet
    expect(Run::query()->count())->toBe(1);
    ($this->later)();
    $step = Run::query()->latest('id')->first();
    $order = MetalOrder::fromArray($step->plan);
    expect([$order->number, $order->follow, $order->end(), $step->kind])->toBe([2, 15, 'wait', Machines::NAME])
        ->and($step->set_id)->toBe(BackupSet::query()->orderByDesc('instant')->value('id'))
        ->and($order->wish->onto)->toBe(MetalOrder::fromArray($run->plan)->wish->onto);
    ($this->later)(); // one is at work
    expect(Run::query()->count())->toBe(2);
    $this->get($this->page)->assertSee("Run {$step->id}")->assertDontSee('id="switch"', false);

    // It failed before it had written anything: it is tried again, under the same number.
    $step->update(['state' => 'failed', 'ended_at' => now()]);
    $this->one->update(['seen_at' => now()->subHour(), 'stepped_at' => now()->subHour()]);
    (new FollowPoints)->handle();
    expect($this->one->refresh()->because)->toContain('has not been heard of for 2 min');
    $this->get('/')->assertSee('cannot go on: Its medium has not been heard of');
    ($this->later)();
    expect(MetalOrder::fromArray(Run::query()->latest('id')->first()->plan)->number)->toBe(2);
});

it('says so where the disks are laid out in another way since', function (): void {
    ($this->brought)();
    ($this->adopt)('2026-10-21T23:10:00Z', 'incr');
    $newest = BackupSet::query()->orderByDesc('instant')->first();
    ($this->later)();
    $step = Run::query()->latest('id')->first();
    $step->update(['state' => 'failed', 'ended_at' => now()]);
    $facts = $newest->refresh()->facts;
    $facts['layout']['disks'][0]['id'] = '0F0F0F0F-0000-0000-0000-000000000001';
    $newest->update(['facts' => $facts]);
    ($this->later)();
    expect($this->one->because)->toContain('its disks are laid out in another way: end this, and bring it anew')
        ->and(Run::query()->count())->toBe(2);
    $this->post($this->page, ['do' => 'switch'])->assertSessionHasErrors('order');
});

it('is switched over by one button, to the newest point, and by who works for it only', function (): void {
    ($this->brought)();
    $this->get($this->page)->assertSee(['Its medium waits', 'every 15 minutes', 'Switch over'])->assertDontSee('To say that');
    $this->post($this->page, ['do' => 'order', 'confirm_sda' => 'S-sda', 'confirm_sdb' => 'S-sdb'])->assertSessionHasErrors('order');
    $this->actingAs($this->person(Role::Auditor));
    $this->get($this->page)->assertOk()->assertDontSee('id="switch"', false);
    $this->post($this->page, ['do' => 'switch'])->assertForbidden();
    $this->actingAs($this->operator);
    $this->post($this->page, ['do' => 'switch'])->assertRedirect();
    $last = Run::query()->latest('id')->first();
    $order = MetalOrder::fromArray($last->plan);
    expect([$order->number, $order->follow, $order->end()])->toBe([2, null, 'reboot'])->and($last->user_id)->toBe($this->operator->id);
    $this->post($this->page, ['do' => 'switch'])->assertSessionHasErrors('order'); // it is at work

    // Whoever carries it out twice cannot know how far the first came.
    Exchange::of($last)->begin();
    (new KeptTrees($this->one))->keep(['x' => new TreeRecord(fopen('php://memory', 'w+b'))]);
    (new MachineCarrier)->carryOut($last);
    expect($last->refresh()->failure)->toContain('cut off in the middle of a step')->toContain('is half of it')
        ->and($this->one->refresh()->ended_at)->not->toBeNull()
        ->and(fn () => (new KeptTrees($this->one))->record('x'))->toThrow(CannotBring::class, 'is not known any more');
    expect($this->kaiseki('medium', 'switch', (string) $this->one->id)->text)->toContain('does not wait for newer points');
});

it('waits only on a medium that can', function (): void {
    ($this->enrol)(1);
    $this->post($this->page, ['do' => 'read']);
    $confirmed = ['confirm_sda' => 'S-sda', 'confirm_sdb' => 'S-sdb', 'do' => 'order'];
    $this->post($this->page, ['follow' => '15'] + $confirmed)->assertSessionHasErrors([
        'order' => 'The medium on that machine is older than this desk, and waits for nothing: start one that is made now.',
    ]);
    $this->post($this->page, ['follow' => 'often'] + $confirmed)->assertSessionHasErrors('order');
    $this->post($this->page, $confirmed)->assertSessionHasNoErrors();
});

it('switches a blank machine over where it was made', function (): void {
    $run = ($this->brought)();
    $layout = MetalOrder::fromArray($run->plan)->layout;
    $settings = new MachineSettings('gate-2', [new DiskSettings('system', 200 << 20), new DiskSettings('data', 60 << 20)]);
    $blank = new BlankOrder('boat', $settings, ['system' => 'fast', 'data' => 'fast'], $layout, new LayoutWish, starts: true, follow: 15);
    $told = ['disks' => [], 'checks' => [], 'bytes' => 0, 'next' => [], 'told' => [], 'right' => true];
    $run->update(['plan' => $blank->toArray(), 'outcome' => $told]);
    $this->one->update(['maker_id' => $run->id]);
    $this->post($this->page, ['do' => 'switch'])->assertRedirect();
    $last = BlankOrder::fromArray(Run::query()->latest('id')->first()->plan);
    expect([$last->enrolment, $last->maker, $last->follow, $last->starts])->toBe([$this->one->id, $run->id, null, true])
        ->and($last->sentence)->toContain('from what it was to gate as of');
    $this->get("/runs/{$run->id}")->assertOk()->assertSee('Its medium waits');
});
