<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\FollowPoints;
use App\Models\Run;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/*
 * A machine that follows, at a real stand-in hypervisor, through days whose sets are made by qemu-img: what its disks hold after each step
 * is compared with what qemu-img makes of the newest.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->machine = new Machine($this->scratch(), ['system' => 3 << 20, 'data' => 5 << 20]);
    $this->machine->set('full', ['system' => [['17', 0, 700_000]], 'data' => [['34', 1 << 20, 1 << 20]]]);
    $this->adopt = fn () => $this->kaiseki('adopt', $this->machine->folder, '--as=berth', '--kind=machine');
    ($this->adopt)();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}", '--site=boathouse');
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

/** What the clock begins, and a worker carries out; the run that this was, if it was one. */
function stepTaken(int $after): ?Run
{
    (new FollowPoints)->handle();
    $run = Run::query()->where('id', '>', $after)->orderByDesc('id')->first();
    $run === null || (new CarryOutRun($run->id))->handle();
    (new FollowPoints)->handle();

    return $run?->refresh();
}

function followsTo(mixed $test, string $set): void
{
    foreach (['system', 'data'] as $disk) {
        $there = hash('sha256', HypervisorAtWork::content($test->hypervisor, 'berth', $disk));
        expect([$disk, $there])->toBe([$disk, $test->machine->digest($set, $disk)]);
    }
}

it('follows the newest point with only what differs, tells how far it is behind, and is started at the end', function (): void {
    $told = $this->told(0, 'restore', 'berth', '--at=2099-01-01T00:00:00Z', '--follow=15', '--on=ketch');
    expect($this->hypervisor->machine('berth')->isRunning())->toBeFalse();
    expect(stepTaken($told['run']))->toBeNull();

    $newest = $this->machine->set('incr', ['system' => [['18', 131072, 65536]], 'data' => [['35', 4 << 20, 4096]]]);
    ($this->adopt)();
    expect(stepTaken($told['run']))->toBeNull(); // it is not due
    $this->travel(16)->minutes();
    $step = stepTaken($told['run']);
    expect([$step->state, $step->outcome['bytes'], $step->failure])->toBe(['done', 2 * 65_536, null])
        ->and($step->steps->firstOrFail(fn ($one): bool => str_contains((string) $one->detail, 'differ'))->detail)
        ->toContain('found by what was marked as changed')
        ->and($step->outcome['aside_cleared'] ?? false)->toBeTrue();
    followsTo($this, $newest);
    $listed = $this->told(0, 'standing')['following'];
    expect([$listed[0]['at'], $listed[0]['minutes'], $listed[0]['because']])->toBe([$newest, 15, null])
        ->and($listed[0]['lag_seconds'])->toBeGreaterThan(0);

    // Two sets later the last step is taken, whether it is due or not.
    $this->machine->set('incr', ['system' => [['20', 0, 65_536]], 'data' => []]);
    ($this->adopt)();
    $last = $this->machine->set('incr', ['system' => [['19', 1 << 20, 100_000]], 'data' => []]);
    ($this->adopt)();
    $ended = $this->told(0, 'settle', (string) $told['run']);
    expect($ended['checks'])->each(fn ($check) => $check->result->not->toBe('failed'))
        ->and($this->hypervisor->machine('berth')->isRunning())->toBeTrue()
        ->and(Following::query()->sole()->ended)->toBe(Following::STARTED)
        ->and($this->told(0, 'standing')['following'])->toBe([]);
    $this->hypervisor->stop('berth', true);
    followsTo($this, $last);
    $this->travel(60)->minutes();
    expect(stepTaken($ended['run']))->toBeNull();
});

it('stops when somebody has started it, or it is gone, and goes with the run that brought it back', function (): void {
    $told = $this->told(0, 'restore', 'berth', '--at=2099-01-01T00:00:00Z', '--follow=1', '--on=ketch');
    $this->hypervisor->start('berth');
    $this->travel(2)->minutes();
    expect(stepTaken($told['run']))->toBeNull()->and(Following::query()->sole()->ended)->toBe(Following::STARTED);
    $this->hypervisor->stop('berth', true);
    $this->told(0, 'put-back', (string) $told['run'], '--also-changed');

    $told = $this->told(0, 'restore', 'berth', '--at=2099-01-01T00:00:00Z', '--follow=1', '--on=ketch');
    $this->told(0, 'put-back', (string) $told['run']);
    expect($this->hypervisor->machines())->toBe([])
        ->and(Following::query()->orderByDesc('id')->first()->ended)->toBe(Following::DROPPED);
    $this->told(2, 'restore', 'berth', '--at=2099-01-01T00:00:00Z', '--follow=1', '--on=ketch', '--start');
    $this->told(2, 'restore', 'berth', '--at=2099-01-01T00:00:00Z', '--follow=0', '--on=ketch');
});
