<?php

declare(strict_types=1);

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Run\BootProof;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Runs\RunProgress;
use App\Sets\Points;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\StandIns\GuestSystem;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/** What a machine is started with: as the demo of the tests has it, or fetched. */
function guestPackages(): string
{
    $home = (string) getenv('KAISEKI_BROWSER_HOME');
    $folder = is_file("$home/guest/done") ? "$home/guest" : getenv('KAISEKI_HOME').'/guest';
    (new Process([dirname(__DIR__, 4).'/bin/guest-packages', $folder]))->setTimeout(null)->mustRun();

    return $folder;
}

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

it('brings a machine back that starts and answers as itself, rolls it back, and takes sets of it while it runs', function (): void {
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $images = $this->scratch()->at('images');
    $machine = new SorrelSoundMachine($this->scratch()->at('work'), $images, 'planner', new GuestSystem(guestPackages()));
    $machine->live(new DateTimeImmutable('2026-10-20'), 2);
    $this->kaiseki('adopt', $images, '--as=planner', '--kind=machine');
    $restore = fn (string ...$more) => $this->kaiseki(
        'restore',
        'planner',
        '--at=2026-10-21T00:00:00Z',
        '--on=ketch',
        '--start',
        '--json',
        ...$more,
    );
    $told = $restore('--whole')->json();
    expect(array_column($told['checks'], 'result'))
        ->toBe(['passed', 'passed', 'passed', 'not seen'])
        ->and($told['checks'][3]['detail'])
        ->toContain('not known here');

    // From now on it is known by what it is told from others; and it runs, so that it has been started once.
    $files = array_map(fn (string $file): string => "--answers=/system.2/$file", ['etc/hostname', 'etc/machine-id', 'var/lib/counter']);
    $this->kaiseki('machine', 'known', 'planner', '--as=planner', '--asked=/cgi-bin/state', ...$files);
    while (! str_contains($this->hypervisor->serial('planner'), 'planner serves')) {
        usleep(200_000);
    }
    $set = $this->kaiseki('protect', 'planner', '--json')->json();
    expect([$set['level'], $set['consistency']])->toBe(['incr', 'crash']);
    $before = $this->kaiseki('restore', 'planner', "--point={$set['set']}", '--rollback', '--stop', '--start', '--json')->json();
    expect(end($before['checks']))
        ->toMatchArray(['result' => 'passed'])
        ->and(end($before['checks'])['detail'])
        ->toEndWith(', 1');

    $told = $restore('--rollback', '--stop')->json();
    expect(end($told['checks']))
        ->toMatchArray(['result' => 'passed'])
        ->and(end($told['checks'])['detail'])
        ->toEndWith(', 0');
    // Its power button is pressed, and it goes off by itself.
    $this->kaiseki('machine', 'stop', 'planner');
    while ($this->hypervisor->machine('planner')->isRunning()) {
        usleep(100_000);
    }
    // The same disks, by the other firmware.
    $told = $this->kaiseki(
        'restore',
        'planner',
        '--at=2026-10-21T00:00:00Z',
        '--whole',
        '--name=planner-uefi',
        '--new-mac',
        '--firmware=uefi',
        '--json',
    );
    $this->hypervisor->start('planner-uefi');
    expect($told->code)
        ->toBe(0)
        ->and($this->hypervisor->machine('planner-uefi')->settings->firmware)
        ->toBe(Firmware::Uefi);
    while (! str_contains($this->hypervisor->serial('planner-uefi'), 'planner serves')) {
        expect($this->hypervisor->machine('planner-uefi')->isRunning())->toBeTrue();
        usleep(200_000);
    }
});

/**
 * A machine that starts nothing, and is answered for by the test.
 *
 * @param  Closure(string): ?string  $says
 */
function proofOf(mixed $test, Closure $says, int $patience = 60): BootProof
{
    Workload::query()->where('name', 'planner')->exists() || Machine::withFiles($test);
    $points = new Points(Workload::query()->where('name', 'planner')->firstOrFail());
    $point = $points->set('planner.full.20261001T020000Z');
    $test->kaiseki('restore', 'planner', "--point={$point->name}", '--whole', '--on=ketch');
    $settings = $test->hypervisor->machine('planner')->settings;
    $test->hypervisor->configure('planner', $settings->with(cards: [new CardSettings('harbour', '52:54:00:00:00:01')]));
    $run = Run::query()->orderByDesc('id')->firstOrFail();

    return new BootProof(
        $test->hypervisor,
        'planner',
        new Answer('/who', ['/disk.2/etc/machine-id']),
        new MachineTree($points, $point),
        new RunProgress($run),
        $patience,
        $says,
    );
}

it('takes another answer for a failure, and its own as a word of its own', function (string $says, string $result, string $detail): void {
    $proof = proofOf($this, fn (string $url): ?string => str_ends_with($url, '/who') ? $says : null);
    $proof->run();
    expect($proof->result)->toBe($result)->and($proof->detail)->toContain($detail);
})->with([
    ['{"id":"4be1"}', 'passed', 'answered with 4be1'],
    ['{"id":"4be17"}', 'failed', 'what answers is another: 4be1 is not in'],
    ["<h1>Moved</h1>\xff", 'failed', 'Moved'],
]);

it('does not take starting for failing, nor going off for starting', function (): void {
    $proof = proofOf($this, fn (): ?string => null, 0);
    $proof->run();
    expect([$proof->result, $proof->detail])->toBe(['not seen', 'it is still starting; it said last: nothing']);
    $this->hypervisor->stop('planner', true);
    $this->hypervisor->delete('planner');

    $proof = proofOf($this, function (): ?string {
        $this->hypervisor->stop('planner', true);

        return null;
    });
    $proof->run();
    expect([$proof->result, $proof->detail])->toBe(['failed', 'it is off again; it said last: nothing']);
});
