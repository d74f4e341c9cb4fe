<?php

declare(strict_types=1);

use Tests\Support\Instance;

/*
 * A machine onto a blank one at a hypervisor of the demo, with nobody at it: a medium is started there, reaches its desk over a network
 * that leads to nothing else, and brings all of it. What is left behind, also by runs that are killed, is looked at there.
 */

beforeEach(function (): void {
    $this->told = function (int $code, string ...$arguments): array {
        $answer = Instance::kaiseki(...[...$arguments, '--json']);
        expect($answer->code)->toBe($code, $answer->text);

        return $answer->json();
    };
    $this->machines = fn (): array => array_column(array_filter(
        ($this->told)(0, 'machine', 'list', '--on=boathouse-vm-1')['machines'],
        fn (array $one): bool => $one['on'] === 'boathouse-vm-1',
    ), 'machine');
    $this->order = ['restore', 'tide-board', '--at='.gmdate('Y-m-d\TH:i:s\Z'), '--to-blank=boathouse-vm-1'];
});

it('drills the whole of it, tells how long each step took, and leaves nothing', function (): void {
    $before = ($this->machines)();
    $told = ($this->told)(0, ...[...$this->order, '--drill']);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])
        ->and(array_column($told['checks'], 'check'))
        ->toBe(['every byte of system.1', 'what lies on system.2', 'what lies on data', 'it answers, as itself'])
        ->and(count($told['steps']))->toBe(11)->and(min(array_column($told['steps'], 'seconds')))->toBeGreaterThanOrEqual(0)
        ->and(array_sum(array_column($told['steps'], 'seconds')))->toBeLessThanOrEqual($told['seconds'] + 0.1)
        ->and($told['machine'])->toBeNull()
        ->and(($this->machines)())->toBe($before)
        ->and(glob(Instance::home().'/vm/1/annexes/*'))->toBe([])
        ->and(Instance::kaiseki('proof', (string) $told['run'])->code)->toBe(0);
})->group('deep');

it('leaves it there under a name of its own, begins anew where it was killed, and takes it away again', function (): void {
    $before = ($this->machines)();
    $process = Instance::process(...[...$this->order, '--name=tide-board-2', '--bus=nvme', '--start', '--new-machine-id', '--json']);
    $process->start();
    $machines = Instance::home().'/vm/1/machines';
    while (glob("$machines/tide-board-2.run-*.json") === []) {
        expect($process->isRunning())->toBeTrue($process->getOutput());
        usleep(100_000);
    }
    $process->stop(0, SIGKILL);
    preg_match('/run-(\d+)\.json$/', (glob("$machines/tide-board-2.run-*.json") ?: [])[0], $m);
    expect(Instance::kaiseki('resume', $m[1])->code)->toBe(0)
        ->and(($this->machines)())->toEqualCanonicalizing([...$before, 'tide-board-2']);
    ($this->told)(0, 'machine', 'stop', 'tide-board-2', '--on=boathouse-vm-1', '--at-once');
    expect(Instance::kaiseki('put-back', $m[1])->code)->not->toBe(0);
    ($this->told)(0, 'put-back', $m[1], '--also-changed');
    expect(($this->machines)())->toBe($before);
})->group('deep');
