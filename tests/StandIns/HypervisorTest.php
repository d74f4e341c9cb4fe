<?php

declare(strict_types=1);

use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\Moment;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\StandIns\Hypervisor\QemuCards;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
});

afterEach(function (): void {
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

function settings(string $name, int $size = 8 << 20, mixed ...$more): MachineSettings
{
    return new MachineSettings($name, [new DiskSettings('system', $size)], ...$more);
}

it('makes machines, names them anew and forgets them, and says what is there', function (): void {
    $settings = settings('kelp', cards: [new CardSettings('harbour', '52:54:00:12:34:56')], memory: 192, tags: ['planner']);
    $this->hypervisor->create($settings, ['system' => 'bulk']);
    $seen = $this->hypervisor->machine('kelp');
    expect($seen->settings)->toEqual($settings)->and($seen->storages)->toBe(['system' => 'bulk'])->and($seen->isRunning())->toBeFalse();

    $this->hypervisor->rename('kelp', 'dulse');
    $this->hypervisor->configure('dulse', $settings->with(name: 'dulse', memory: 512));
    expect(array_keys($this->hypervisor->machines()))->toBe(['dulse'])
        ->and($this->hypervisor->machine('dulse')->settings->memory)->toBe(512);

    $this->hypervisor->delete('dulse');
    expect($this->hypervisor->machines())->toBe([])->and(glob("{$this->host->folder}/storages/*/*"))->toBe([]);
});

it('refuses what it has not', function (string $why, Closure $do): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    expect(fn () => $do($this->hypervisor))->toThrow(HypervisorFailure::class, $why);
})->with([
    ['already', fn ($h) => $h->create(settings('kelp'), ['system' => 'fast'])],
    ['no storage cold', fn ($h) => $h->create(settings('dulse'), ['system' => 'cold'])],
    ['no network moon', fn ($h) => $h->create(
        settings('dulse', cards: [new CardSettings('moon', '52:54:00:12:34:56')]),
        ['system' => 'fast'],
    )],
    ['no machine dulse', fn ($h) => $h->start('dulse')],
    ['does not run', fn ($h) => $h->stop('kelp', true)],
    ['no disk ../kelp', fn ($h) => $h->openDisk('kelp', '../kelp', false)],
    ['no machine ../kelp', fn ($h) => $h->openDisk('../kelp', 'system', false)],
    ['name of a machine', fn ($h) => $h->rename('kelp', '../etc/x')],
    ['of one size', function ($h): void {
        $h->create(settings('dulse', 16 << 20), ['system' => 'fast']);
        $h->swapDisk('kelp', 'system', 'dulse');
    }],
]);

it('takes one disk out of a machine, with what is on it, and leaves the others', function (): void {
    $disks = [new DiskSettings('system', 8 << 20), new DiskSettings('medium', 4 << 20)];
    $this->hypervisor->create(new MachineSettings('kelp', $disks, boot: ['medium']), ['system' => 'fast', 'medium' => 'bulk']);
    NbdDisk::with($this->hypervisor, 'kelp', 'system', true, fn (NbdDisk $to) => $to->write(4096, 'tide'));
    $this->hypervisor->removeDisk('kelp', 'medium');
    $seen = $this->hypervisor->machine('kelp');
    expect($seen->settings->diskNames())->toBe(['system'])->and($seen->settings->boot)->toBe([])
        ->and($seen->storages)->toBe(['system' => 'fast'])
        ->and(glob("{$this->host->folder}/storages/bulk/*"))->toBe([])
        ->and(NbdDisk::with($this->hypervisor, 'kelp', 'system', false, fn (NbdDisk $from): string => $from->read(4096, 4)))->toBe('tide')
        ->and(fn () => $this->hypervisor->removeDisk('kelp', '../system'))->toThrow(HypervisorFailure::class, 'no disk ../system');
    $this->hypervisor->start('kelp');
    expect(fn () => $this->hypervisor->removeDisk('kelp', 'system'))->toThrow(HypervisorFailure::class, 'must be off');
});

it('leads from one network to the line of a desk, and from none to anything else', function (): void {
    $card = fn (string $network): array => (new QemuCards('/run/x', 'kelp', [new CardSettings($network, '52:54:00:12:34:56', false)], [], [
        'rescue' => '127.0.0.1:13480',
    ]))->arguments();
    expect($card('harbour')[1])->toBe('user,id=net0,restrict=on')
        ->and($card('rescue')[1])->toBe('user,id=net0,restrict=on,guestfwd=tcp:10.0.2.100:443-cmd:/usr/bin/socat - TCP:127.0.0.1:13480');
});

it('gives what was written to a disk, as qemu-img reads it too', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    $bytes = random_bytes(3 << 20);
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', $bytes, 1 << 20);
    $whole = str_repeat("\0", 1 << 20).$bytes.str_repeat("\0", 4 << 20);
    expect(HypervisorAtWork::content($this->hypervisor, 'kelp', 'system') === $whole)->toBeTrue();

    $raw = "{$this->host->folder}/raw";
    Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', "{$this->host->folder}/storages/fast/kelp.system.qcow2", $raw);
    expect(file_get_contents($raw) === $whole)->toBeTrue();
});

it('tells which areas hold something, and which changed since a mark, until somebody writes past it', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', random_bytes(2 << 20));
    $this->hypervisor->mark('kelp', 'system', 'night-1');
    expect($this->hypervisor->marks('kelp', 'system'))->toBe(['night-1']);

    $image = "{$this->host->folder}/storages/fast/kelp.system.qcow2";
    Disks::write($image, [['7', 3 << 20, 65_536], ['9', 65_536, 10]]); // as a machine that runs does
    $door = $this->hypervisor->openDisk('kelp', 'system', false, 'night-1');
    $disk = NbdDisk::open($door, 'night-1');
    expect([...$disk->changed()])->toBe([[65_536, 131_072], [3 << 20, (3 << 20) + 65_536]])
        ->and([...$disk->held()])->toBe([[0, 2 << 20], [3 << 20, (3 << 20) + 65_536]]);
    $disk->close();
    $this->hypervisor->closeDisk($door);

    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', 'x');
    expect($this->hypervisor->marks('kelp', 'system'))->toBe([]);
});

it('does not believe a mark that was in use when the power went', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    $this->hypervisor->mark('kelp', 'system', 'night-1');
    $this->hypervisor->start('kelp');
    [$pid] = array_values(array_filter(array_map(intval(...), array_map(file_get_contents(...), glob("{$this->host->folder}/run/*.pid")))));
    posix_kill($pid, SIGKILL);
    while ($this->hypervisor->machine('kelp')->isRunning()) {
        usleep(10_000);
    }
    expect($this->hypervisor->marks('kelp', 'system'))->toBe([]);
});

it('ends a write at a storage that is full with words', function (): void {
    $small = new HypervisorAtWork(fast: 2 << 20);
    $hypervisor = $small->open();
    $hypervisor->create(settings('kelp'), ['system' => 'fast']);
    expect(fn () => HypervisorAtWork::fill($hypervisor, 'kelp', 'system', random_bytes(4 << 20)))
        ->toThrow(HypervisorFailure::class, 'cannot be read or written any further');
    unset($hypervisor);
    $small->remove();
    expect($small->left())->toBe([]);
});

it('runs machines while there is room, shows their screen, and ends them with itself', function (): void {
    foreach (['kelp', 'dulse', 'wrack'] as $name) {
        $this->hypervisor->create(settings($name, memory: 384), ['system' => 'fast']);
    }
    $this->hypervisor->start('kelp');
    $this->hypervisor->start('dulse');
    expect(fn () => $this->hypervisor->start('wrack'))->toThrow(HypervisorFailure::class, '256 are free')
        ->and(fn () => $this->hypervisor->start('kelp'))->toThrow(HypervisorFailure::class, 'runs already')
        ->and(fn () => $this->hypervisor->openDisk('kelp', 'system', true))->toThrow(HypervisorFailure::class, 'must be off')
        ->and($this->hypervisor->room()->slotsFree)->toBe(1)
        ->and(substr($this->hypervisor->screen('kelp'), 1, 3))->toBe('PNG');
    $this->hypervisor->stop('dulse', true);
    expect($this->hypervisor->machine('dulse')->isRunning())->toBeFalse()->and(count($this->host->left()))->toBe(1);
    $this->host->end();
    expect($this->host->left())->toBe([]);
});

it('closes the door of who is gone', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    $other = $this->host->open();
    $other->openDisk('kelp', 'system', true);
    expect(count($this->host->left()))->toBe(1);
    unset($other);
    for ($i = 0; $i < 500 && $this->host->left() !== []; $i++) {
        usleep(20_000);
    }
    expect($this->host->left())->toBe([]);
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', 'and the disk is free again');
});

/** @return array{string, list<array{int, int}>|null} what a moment holds of the disk, and what changed since the mark before */
function held(Moment $moment): array
{
    $mark = $moment->since['system'] ?? null;
    $disk = NbdDisk::open($moment->doors['system'], $mark);
    $all = [$disk->read(0, $disk->size()), $mark === null ? null : [...$disk->changed()]];
    $disk->close();

    return $all;
}

it('keeps a disk as it was in one instant while the machine goes on, and what changed since the instant before', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    $first = random_bytes(1 << 20);
    HypervisorAtWork::fill($this->hypervisor, 'kelp', 'system', $first);
    $then = $first.str_repeat("\0", 7 << 20);

    $moment = $this->hypervisor->beginMoment('kelp', ['system'], 'night-1');
    expect($moment->isRunning)->toBeFalse()->and(held($moment))->toBe([$then, null]);
    $this->hypervisor->endMoment('kelp', true);

    $this->hypervisor->start('kelp');
    $this->host->guestWrites('system', 7, 65_536, 65_536);
    $then = substr_replace($then, str_repeat("\7", 65_536), 65_536, 65_536);
    $moment = $this->hypervisor->beginMoment('kelp', ['system'], 'night-2');
    $this->host->guestWrites('system', 9, 0, 131_072);
    $this->host->guestWrites('system', 9, 4 << 20, 65_536);
    expect([$moment->isRunning, $moment->since])->toBe([true, ['system' => 'night-1']])
        ->and(held($moment) === [$then, [[65_536, 131_072]]])->toBeTrue();
    $this->hypervisor->endMoment('kelp', true);

    // One that came to nothing: what it would have told is told by the next.
    $then = substr_replace(substr_replace($then, str_repeat("\11", 131_072), 0, 131_072), str_repeat("\11", 65_536), 4 << 20, 65_536);
    $this->hypervisor->beginMoment('kelp', ['system'], 'night-3');
    $this->host->guestWrites('system', 5, 7 << 20, 65_536);
    $this->hypervisor->endMoment('kelp', false);
    $then = substr_replace($then, str_repeat("\5", 65_536), 7 << 20, 65_536);
    $moment = $this->hypervisor->beginMoment('kelp', ['system'], 'night-4');
    expect($moment->since)->toBe(['system' => 'night-2'])
        ->and(held($moment) === [$then, [[0, 131_072], [4 << 20, (4 << 20) + 65_536], [7 << 20, (7 << 20) + 65_536]]])->toBeTrue();
    $this->hypervisor->endMoment('kelp', true);
    $this->hypervisor->stop('kelp', true);
    expect($this->hypervisor->marks('kelp', 'system'))->toBe(['night-4'])
        ->and(glob("{$this->host->folder}/storages/fast/*.moment"))->toBe([]);
});

it('lets go of a moment whose reader has gone, as if nothing had been', function (): void {
    $this->hypervisor->create(settings('kelp'), ['system' => 'fast']);
    $this->hypervisor->beginMoment('kelp', ['system'], 'night-1');
    $this->hypervisor->endMoment('kelp', true);
    $this->hypervisor->start('kelp');
    $other = $this->host->open();
    $other->beginMoment('kelp', ['system'], 'night-2');
    $this->host->guestWrites('system', 7, 0, 65_536);
    unset($other);
    for ($i = 0; $i < 500 && glob("{$this->host->folder}/storages/fast/*.moment") !== []; $i++) {
        usleep(20_000);
    }
    $moment = $this->hypervisor->beginMoment('kelp', ['system'], 'night-3');
    expect($moment->since)->toBe(['system' => 'night-1'])->and(held($moment)[1])->toBe([[0, 65_536]]);
    $this->hypervisor->endMoment('kelp', false);
});
