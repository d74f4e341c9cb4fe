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
use Kaiseki\Core\Hypervisor\InsideOutcome;
use Kaiseki\StandIns\Hypervisor\JsonLines;
use Kaiseki\StandIns\Hypervisor\KeptMachine;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;
use Tests\Support\Guest;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

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

/** The file system of its system disk, as it is in a set, on a disk of its own. */
function rootOf(mixed $test, string $set): string
{
    $test->kaiseki('restore', 'planner', "--point=$set", '--disk=system', '--format=raw', "--to={$test->scratch()->folder($set)}");
    $root = $test->scratch()->at("$set.ext4");
    (new Process(['dd', 'if='.$test->scratch()->at("$set/planner.system.raw"), "of=$root", 'bs=1M', 'skip=25', 'status=none']))->mustRun();

    return $root;
}

/** By the agent in it: commands of its own around the instant, file systems at rest in it, and nothing left at rest behind it. */
function takesSetsAtRest(mixed $test): void
{
    expect($test->hypervisor->agent('planner')->host)->toBe('planner');
    $set = $test->kaiseki(
        'protect',
        'planner',
        '--before=["sh","-c","echo resting >/var/lib/at-rest; cat /var/lib/at-rest"]',
        '--after=["rm","-v","/var/lib/at-rest"]',
        '--json',
    )->json();
    expect([$set['consistency'], array_column($set['commands'], 'exit')])
        ->toBe(['application', [0, 0]])
        ->and($set['commands'][0]['output'])
        ->toBe("resting\n");
    $root = rootOf($test, $set['set']);
    $clean = new Process(['e2fsck', '-fn', $root]);
    expect([$clean->run(), $clean->getOutput()])->toBe([0, $clean->getOutput()])
        ->and((new Process(['dumpe2fs', '-h', $root]))->mustRun()->getOutput())->not->toContain('needs_recovery')
        ->and((new Process(['debugfs', '-R', 'cat /var/lib/at-rest', $root]))->mustRun()->getOutput())->toBe("resting\n");

    // A command that ends wrong, and one that does not end, are told; the machine goes on.
    $set = $test->kaiseki('protect', 'planner', '--before=["sleep","60"]', '--after=["false"]', '--limit=1', '--json')->json();
    expect([$set['consistency'], array_column($set['commands'], 'exit')])->toBe(['files', [null, 1]])
        ->and($set['remarks'])->toContain('The command after it ended with 1: it said nothing.');

    // Who held it at rest was killed: whoever asks next lets it go on.
    $process = KeptMachine::read($test->host->folder, 'planner')->process();
    $killed = new Process(['true']);
    $killed->start();
    $pid = $killed->getPid();
    $killed->wait();
    file_put_contents($process->restFile(), (string) $pid);
    $lines = JsonLines::to($process->agentSocket(), microtime(true) + 30);
    $lines->send(['execute' => 'guest-fsfreeze-freeze']);
    expect($lines->line(microtime(true) + 60)['return'])->toBe(2);
    unset($lines);
    for ($i = 0; $i < 100 && is_file($process->restFile()); $i++) {
        $test->hypervisor = $test->host->open(); // whoever asks next; a machine that is slow to answer is asked once more
        $test->hypervisor->machines();
        clearstatcache();
    }
    expect($test->hypervisor->runInside('planner', ['sh', '-c', 'echo on >/var/lib/on && cat /var/lib/on'], 60))
        ->toEqual(new InsideOutcome(0, "on\n"))
        ->and($process->restFile())->not->toBeFile();
}

it('brings a machine back that starts and answers as itself, rolls it back, and takes sets of it while it runs', function (): void {
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
    $images = $this->scratch()->at('images');
    $machine = new SorrelSoundMachine($this->scratch()->at('work'), $images, 'planner', Guest::system());
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
    takesSetsAtRest($this);
    $set = $this->kaiseki('protect', 'planner', '--json')->json();
    expect([$set['level'], $set['consistency'], $set['commands']])->toBe(['incr', 'files', []]);
    $before = $this->kaiseki('restore', 'planner', "--point={$set['set']}", '--rollback', '--stop', '--start', '--json')->json();
    expect(end($before['checks']))
        ->toMatchArray(['result' => 'passed'])
        ->and(end($before['checks'])['detail'])
        ->toEndWith(', 1');

    $told = $restore('--rollback', '--shut-down')->json(); // asked by its power button, it goes by itself
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
function proofOf(mixed $test, Closure $says, int $patience = 60, ?string $sector = null): BootProof
{
    Workload::query()->where('name', 'planner')->exists() || Machine::withFiles($test);
    $points = new Points(Workload::query()->where('name', 'planner')->firstOrFail());
    $point = $points->set('planner.full.20261001T020000Z');
    $test->kaiseki('restore', 'planner', "--point={$point->name}", '--whole', '--on=ketch');
    $settings = $test->hypervisor->machine('planner')->settings;
    $test->hypervisor->configure('planner', $settings->with(cards: [new CardSettings('harbour', '52:54:00:00:00:01')]));
    $run = Run::query()->orderByDesc('id')->firstOrFail();
    $sector === null || HypervisorAtWork::fill($test->hypervisor, 'planner', 'disk', str_pad($sector, 510, "\0")."\x55\xaa");

    return new BootProof(
        $test->hypervisor,
        'planner',
        new Answer('/who', ['/disk.2/etc/machine-id']),
        new MachineTree($points, $point),
        new RunProgress($run),
        $patience,
        $says,
        2.0,
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
    expect($proof->result)->toBe('not seen')->and($proof->detail)->toStartWith('it is still starting');
    $this->hypervisor->stop('planner', true);
    $this->hypervisor->delete('planner');

    $proof = proofOf($this, function (): ?string {
        $this->hypervisor->stop('planner', true);

        return null;
    });
    $proof->run();
    expect([$proof->result, $proof->detail])->toBe(['failed', 'it is off again; it said last: nothing']);
});

it('tells one that stands still, and one that finds nothing to start, from one that is at work', function (): void {
    // A first sector that switches its processor off (cli; hlt), and one that runs in a circle (jmp $): the Intel manual, volume 2.
    foreach ([
        ["\xfa\xf4\xeb\xfd", 120, 'failed', 'it stands still'],
        ["\xeb\xfe", 6, 'not seen', 'it came to its firmware, and it is at work'],
        [null, 120, 'failed', 'its firmware finds nothing to start from'],
    ] as [$sector, $patience, $result, $detail]) {
        $proof = proofOf($this, fn (): ?string => null, $patience, $sector ?? '');
        if ($sector === null) {
            HypervisorAtWork::fill($this->hypervisor, 'planner', 'disk', "\1".str_repeat("\1", 511));
        }
        $proof->run();
        expect([$proof->result, $proof->detail])->toBe([$result, $proof->detail])
            ->and($proof->detail)->toContain($detail)
            ->and($proof->watch->account()['stages'][0]['stage'])->toBe('firmware')
            ->and(base64_decode((string) $proof->watch->account()['screen']))->toStartWith("\x89PNG");
        $this->hypervisor->stop('planner', true);
        $this->hypervisor->delete('planner');
    }
});
