<?php

declare(strict_types=1);

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Symfony\Component\Process\Process;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Scratch;

/*
 * Machines whose disks are served from elsewhere, on a real QEMU: no operating system runs in them, what one would write is written
 * by QEMU's own means.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->scratch = new Scratch;
    $this->bytes = random_bytes(3 << 20).str_repeat("\0", 4 << 20).random_bytes(1 << 20);
    $this->file = $this->scratch->file('system.raw', $this->bytes);
});

afterEach(function (): void {
    isset($this->server) && $this->server->stop(5);
    $this->host->remove();
    $this->scratch->remove();
    expect($this->host->left())->toBe([]);
});

function serve(mixed $test): void
{
    $socket = $test->hypervisor->servedAt('s1');
    ! file_exists($socket) || unlink($socket);
    $test->server = new Process([PHP_BINARY, dirname(__DIR__).'/Support/served-disks.php', $socket, "system={$test->file}"]);
    $test->server->setTimeout(null);
    $test->server->start();
    while (! file_exists($socket)) {
        usleep(5_000);
    }
}

/** A machine whose one disk is served. */
function standsOnServed(mixed $test, string $storage = 'fast'): void
{
    serve($test);
    $settings = new MachineSettings('kelp', [new DiskSettings('system', strlen($test->bytes))]);
    $door = new DiskDoor($test->hypervisor->servedAt('s1'), 'system');
    $test->hypervisor->create($settings, ['system' => $storage], ['system' => $door]);
}

function writesIn(mixed $test, int $byte, int $from, int $length): void
{
    $test->host->guestWrites('system', $byte, $from, $length);
    $test->bytes = substr_replace($test->bytes, str_repeat(chr($byte), $length), $from, $length);
}

function settledWithin(mixed $test): void
{
    while (($test->hypervisor->settling('kelp')['system'] ?? null)?->isAtWork) {
        usleep(20_000);
    }
}

/** Until all of it is at the other storage, or it cannot come there. */
function readyWithin(mixed $test): void
{
    do {
        usleep(20_000);
        $far = $test->hypervisor->settling('kelp')['system'];
    } while ($far->isAtWork && ! $far->isReady);
}

it('runs on what is served, is settled while it runs, and needs nobody any more', function (): void {
    standsOnServed($this);
    expect($this->hypervisor->machine('kelp')->sources)->toBe(['system'])
        ->and(HypervisorAtWork::content($this->hypervisor, 'kelp', 'system') === $this->bytes)->toBeTrue();
    $this->hypervisor->mark('kelp', 'system', 'since');
    $this->hypervisor->start('kelp');
    writesIn($this, 7, 65_536, 200_000);
    $this->hypervisor->settle('kelp', 'system', 1);
    $slow = $this->hypervisor->settling('kelp')['system'];
    expect([$slow->isAtWork, $slow->total])->toBe([true, strlen($this->bytes)]);
    expect(fn () => $this->hypervisor->beginMoment('kelp', ['system'], 'meanwhile'))->toThrow(HypervisorFailure::class, 'being settled');
    writesIn($this, 9, 2 << 20, 100_000);
    $this->hypervisor->settle('kelp', 'system', 0);
    settledWithin($this);
    expect($this->hypervisor->settling('kelp'))->toBe([])->and($this->hypervisor->machine('kelp')->sources)->toBe([]);
    $this->server->stop(5);
    writesIn($this, 5, 7 << 20, 1000);
    $this->hypervisor->rename('kelp', 'dulse');
    expect($this->hypervisor->machine('dulse')->isRunning())->toBeTrue();

    // What was brought over is no change of the machine's.
    $moment = $this->hypervisor->beginMoment('dulse', ['system'], 'later');
    $disk = NbdDisk::open($moment->doors['system'], $moment->since['system']);
    expect([...$disk->changed()])->toBe([[65_536, 327_680], [2 << 20, (2 << 20) + 131_072], [7 << 20, (7 << 20) + 65_536]]);
    $disk->close();
    $this->hypervisor->endMoment('dulse', false);
    $this->hypervisor->stop('dulse', true);
    expect(HypervisorAtWork::content($this->hypervisor, 'dulse', 'system') === $this->bytes)->toBeTrue()
        ->and(fn () => $this->hypervisor->settle('dulse', 'system', 0))->toThrow(HypervisorFailure::class, 'does not run');
});

it('goes on where it was when it was off, and when who serves the disk was killed and came again', function (): void {
    standsOnServed($this);
    $this->hypervisor->start('kelp');
    $this->hypervisor->settle('kelp', 'system', 1);
    writesIn($this, 7, 0, 70_000);
    $this->hypervisor->stop('kelp', true);
    expect($this->hypervisor->settling('kelp')['system']->isAtWork)->toBeFalse();
    $this->hypervisor->start('kelp');
    $this->hypervisor->settle('kelp', 'system', 1);
    $this->server->signal(SIGKILL);
    serve($this); // what the machine is asked meanwhile may wait until what was on its way has come
    $this->hypervisor->settle('kelp', 'system', 0);
    settledWithin($this);
    $this->hypervisor->stop('kelp', true);
    expect($this->hypervisor->machine('kelp')->sources)->toBe([])
        ->and(HypervisorAtWork::content($this->hypervisor, 'kelp', 'system') === $this->bytes)->toBeTrue();
});

it('says why a disk is not settled: a storage that is full, a block that nobody can give', function (): void {
    $this->host->end();
    $this->host->remove();
    $this->host = new HypervisorAtWork(fast: 2 << 20);
    $this->hypervisor = $this->host->open();
    standsOnServed($this);
    $this->hypervisor->start('kelp');
    $this->hypervisor->settle('kelp', 'system', 0);
    settledWithin($this);
    expect($this->hypervisor->settling('kelp')['system']->failure)
        ->toBeIn(['its storage is full', 'it cannot be read where it is served, or written to its storage'])
        ->and($this->hypervisor->machine('kelp')->isRunning())->toBeTrue();
    $this->hypervisor->stop('kelp', true);
    $this->hypervisor->delete('kelp');

    file_put_contents($this->file, substr_replace($this->bytes, 'damaged', 1 << 20, 7));
    standsOnServed($this, 'bulk');
    $this->hypervisor->start('kelp');
    $this->hypervisor->settle('kelp', 'system', 0);
    settledWithin($this);
    expect($this->hypervisor->settling('kelp')['system']->failure)->toContain('cannot be read')
        ->and($this->hypervisor->machine('kelp')->sources)->toBe(['system']);
});

it('is moved to another storage while it runs, and back, with what it has written and the marks of that', function (): void {
    standsOnServed($this);
    $this->hypervisor->mark('kelp', 'system', 'since');
    $this->hypervisor->start('kelp');
    writesIn($this, 7, 65_536, 200_000);
    $this->hypervisor->settle('kelp', 'system', 1, 'bulk');
    expect(fn () => $this->hypervisor->changeOver('kelp', 'system'))
        ->toThrow(HypervisorFailure::class, 'not all of the disk system has come')
        ->and(fn () => $this->hypervisor->beginMoment('kelp', ['system'], 'meanwhile'))->toThrow(HypervisorFailure::class, 'being settled')
        ->and(fn () => $this->hypervisor->settle('kelp', 'system', 1, 'attic'))->toThrow(HypervisorFailure::class, 'comes to bulk');
    writesIn($this, 9, 2 << 20, 100_000);
    $this->hypervisor->settle('kelp', 'system', 0, 'bulk');
    readyWithin($this);
    writesIn($this, 8, 5 << 20, 10);
    $this->hypervisor->changeOver('kelp', 'system');
    $this->server->stop(5);
    expect($this->hypervisor->settling('kelp'))->toBe([])
        ->and([$this->hypervisor->machine('kelp')->sources, $this->hypervisor->machine('kelp')->storages])->toBe([[], ['system' => 'bulk']])
        ->and(glob("{$this->host->folder}/storages/fast/*"))->toBe([]);
    writesIn($this, 5, 7 << 20, 1000);

    // Back, over a second image of the first's name; a moment begins and ends between.
    $this->hypervisor->beginMoment('kelp', ['system'], 'between');
    $this->hypervisor->endMoment('kelp', false);
    $this->hypervisor->settle('kelp', 'system', 0, 'fast');
    readyWithin($this);
    $this->hypervisor->changeOver('kelp', 'system');
    writesIn($this, 4, (7 << 20) + 200_000, 1000);
    $moment = $this->hypervisor->beginMoment('kelp', ['system'], 'later');
    $disk = NbdDisk::open($moment->doors['system'], $moment->since['system']);
    expect($moment->since)->toBe(['system' => 'since'])->and([...$disk->changed()])->toBe([
        [65_536, 327_680], [2 << 20, (2 << 20) + 131_072], [5 << 20, (5 << 20) + 65_536], [7 << 20, (7 << 20) + 65_536],
        [(7 << 20) + 196_608, (7 << 20) + 262_144],
    ]);
    $disk->close();
    $this->hypervisor->endMoment('kelp', false);
    $this->hypervisor->stop('kelp', true);
    expect(HypervisorAtWork::content($this->hypervisor, 'kelp', 'system') === $this->bytes)->toBeTrue()
        ->and(glob("{$this->host->folder}/storages/bulk/*"))->toBe([]);
});

it('stays where it was when moving it was cut off, or stopped, or the other storage is full', function (): void {
    $this->host->end();
    $this->host->remove();
    $this->host = new HypervisorAtWork(fast: 2 << 20);
    $this->hypervisor = $this->host->open();
    standsOnServed($this, 'bulk');
    $this->hypervisor->start('kelp');
    $this->hypervisor->settle('kelp', 'system', 0, 'fast');
    readyWithin($this);
    expect($this->hypervisor->settling('kelp')['system']->failure)->not->toBeNull()
        ->and($this->hypervisor->machine('kelp')->isRunning())->toBeTrue();
    writesIn($this, 3, 1 << 20, 70_000);
    $this->hypervisor->stopSettling('kelp', 'system');
    expect(glob("{$this->host->folder}/storages/fast/*"))->toBe([])->and($this->hypervisor->machine('kelp')->sources)->toBe(['system']);

    // Killed in the middle of it: what was copied goes, and it begins where it lay.
    $facts = json_decode((string) file_get_contents("{$this->host->folder}/host.json"), true);
    file_put_contents("{$this->host->folder}/host.json", json_encode(['storages' => ['fast' => 1 << 30] + $facts['storages']] + $facts));
    $this->hypervisor->settle('kelp', 'system', 1, 'fast');
    $this->hypervisor->stop('kelp', true);
    $this->hypervisor->start('kelp');
    expect(glob("{$this->host->folder}/storages/fast/*"))->toBe([])
        ->and($this->hypervisor->settling('kelp')['system']->isAtWork)->toBeFalse();
    $this->hypervisor->settle('kelp', 'system', 0, 'fast');
    readyWithin($this);
    $this->hypervisor->changeOver('kelp', 'system');
    $this->hypervisor->stop('kelp', true);
    expect(HypervisorAtWork::content($this->hypervisor, 'kelp', 'system') === $this->bytes)->toBeTrue();
});
