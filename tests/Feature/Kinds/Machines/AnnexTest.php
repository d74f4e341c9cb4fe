<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Machines\Annex\Annex;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunFiles;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\StandIns\Hypervisor\KeptAnnex;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;
use Tests\Support\CardAtWork;
use Tests\Support\Frames;
use Tests\Support\Guest;
use Tests\Support\HelpersAtWork;
use Tests\Support\HypervisorAtWork;
use Tests\Support\Machine;

/*
 * Machines in an annex, at a real stand-in hypervisor: beside their originals, attacked from inside, released, dropped.
 */

beforeEach(function (): void {
    array_map(unlink(...), [...glob(Instance::folder('serving').'/*') ?: [], ...glob(Instance::folder('annexes').'/*') ?: []]);
    $this->helpers = new HelpersAtWork;
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}", '--site=boathouse');
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    $this->helpers->end();
    $processes = (new Process(['ps', '-eo', 'args', '--no-headers', '-ww']))->mustRun()->getOutput();
    expect($this->host->left())->toBe([])->and($processes)->not->toContain($this->host->folder)
        ->and($this->helpers->said())->toBe('');
});

/** The machine of the sets runs at the hypervisor, with a card. */
function originalRuns(mixed $test): void
{
    Machine::taken($test);
    $settings = $test->host->machine('berth', system: $test->scratch()->file('empty', str_repeat("\0", 512)));
    $test->hypervisor->configure('berth', $settings->with(cards: [new CardSettings('harbour', '02:00:00:00:00:07')], memory: 64));
    $test->told(0, 'machine', 'known', 'berth', '--on=ketch', '--as=berth');
    $test->hypervisor->start('berth');
}

/** @return array<string, mixed> what came of a program that is run in a machine in an annex */
function inside(mixed $test, string $run, string $why, string ...$program): array
{
    return $test->kaiseki('inside', $run, "--why=$why", '--json', '--', ...$program)->json();
}

it('stands a machine up beside its original, and puts it in its place when it is released', function (): void {
    originalRuns($this);
    $up = ['restore', 'berth', '--at=2026-10-02T12:00:00Z', '--stand-up', '--on=ketch', '--memory=64'];
    expect($this->told(3, ...$up)['error'])->toContain('There is a machine berth at ketch already');
    $run = (string) $this->told(0, ...[...$up, '--annex'])['run'];
    $stands = "berth.standing-run-$run";
    $card = $this->hypervisor->machine($stands)->settings->cards[0];
    expect([$card->network, $card->mac])->toBe(["annex-run-$run", '02:00:00:00:00:07'])
        ->and($this->hypervisor->machine('berth')->isRunning())->toBeTrue()
        ->and($this->hypervisor->room()->annexes)->toBe(["annex-run-$run"])
        ->and($this->told(0, 'protect', 'berth', '--level=full')['state'] ?? 'done')->toBe('done') // of the original, and not of this one
        ->and($this->told(3, 'settle', $run)['error'])->toContain('release it first')
        ->and($this->told(3, 'release', $run)['error'])->toContain('ended and set aside')
        ->and(inside($this, $run, 'to see', 'hostname')['result'])->toContain('no agent')
        ->and(inside($this, $run, ' ', 'hostname')['error'])->toContain('Say why')
        ->and($this->told(0, 'inside', $run, '--why=to see', '--type=help')['result'])->toBe('typed');

    $this->hypervisor->stop($stands, true);
    $released = $this->told(0, 'release', $run, '--set-aside', '--unscanned');
    $aside = Run::query()->find($run)->outcome['aside'];
    expect(array_column($released['checks'], 'result'))->toBe(['passed', 'not seen'])
        ->and($this->hypervisor->machine($stands)->settings->cards[0]->network)->toBe('harbour')
        ->and($this->hypervisor->machine($stands)->isRunning())->toBeTrue()
        ->and($this->hypervisor->machine($aside)->isRunning())->toBeFalse()
        ->and($this->hypervisor->room()->annexes)->toBe([])
        ->and(array_column($this->told(0, 'annex', $run)['changes'], 'why'))->toBe(['to see', 'to see'])
        ->and($this->told(3, 'release', $run)['error'])->toContain('is in no annex')
        ->and(inside($this, $run, 'late', 'hostname')['error'])->toContain('is in no annex');
    $this->told(0, 'settle', $run);
    $this->hypervisor->stop('berth', true);
    $this->told(0, 'put-back', $run, '--also-changed');
    expect(array_keys($this->hypervisor->machines()))->toBe(['berth'])
        ->and($this->hypervisor->machine('berth')->settings->disk('data'))->toBeNull();
});

/** A card wants something outside, again and again as one does that hears nothing, until the record of a run's annex has it. */
function untilWrittenDown(mixed $test, CardAtWork $card, string $run): void
{
    for ($i = 0; $i < 100; $i++) {
        $card->send(Frames::ipv4('52:55:0a:00:02:02', $card->mac, 6, '10.0.2.20', '198.51.100.7', Frames::tcp(4001, 443, 2)));
        usleep(50_000);
        if ($test->told(0, 'annex', $run)['wanted'] !== []) {
            return;
        }
    }
}

it('leaves nothing of a machine that is dropped in its annex, and its original as it was', function (): void {
    originalRuns($this);
    $up = ['restore', 'berth', '--at=2026-10-02T12:00:00Z', '--stand-up', '--annex', '--on=ketch', '--memory=64'];
    $run = (string) $this->told(0, ...$up)['run'];
    $card = new CardAtWork(KeptAnnex::of($this->host->folder, "annex-run-$run"), 'tern', '02:00:00:00:00:01');
    untilWrittenDown($this, $card, $run);
    $this->told(0, 'discard', $run);
    $annex = Annex::ofRun(Run::query()->find($run));
    expect(array_keys($this->hypervisor->machines()))->toBe(['berth'])
        ->and($this->hypervisor->machine('berth')->isRunning())->toBeTrue()
        ->and($this->hypervisor->room()->annexes)->toBe([])
        ->and($annex->ended)->toBe('dropped')
        ->and($annex->wanted()[0]->words())->toBe('TCP 198.51.100.7 port 443')
        ->and(filesize($annex->file()))->toBeGreaterThan(100)
        ->and($this->told(2, ...[...array_diff($up, ['--stand-up']), '--whole'])['error'])->toContain('--annex goes with --stand-up')
        ->and($this->told(2, 'annex', '4711')['error'])->toContain('4711');
});

it('has several machines in one annex, which is there until the last of them has left', function (): void {
    config(['machines.shuts_down_in' => 1]);
    originalRuns($this);
    $up = ['restore', 'berth', '--at=2026-10-02T12:00:00Z', '--stand-up', '--on=ketch', '--memory=64'];
    $first = (string) $this->told(0, ...[...$up, '--annex'])['run'];
    expect($this->told(3, ...[...$up, "--join=$first", '--name=tender'])['error'])->toContain('the address 02:00:00:00:00:07 too')
        ->and($this->told(3, ...[...$up, '--join=4711', '--name=tender', '--new-mac'])['error'])->toContain('Nothing that run 4711')
        ->and($this->told(2, ...[...array_diff($up, ['--stand-up']), '--whole', "--join=$first"])['error'])->toContain('--stand-up');
    $told = $this->told(0, ...[...$up, "--join=$first", '--name=tender', '--new-mac']);
    $second = (string) $told['run'];
    $network = fn (string $machine): string => $this->hypervisor->machine($machine)->settings->cards[0]->network;
    expect([$network("berth.standing-run-$first"), $network("tender.standing-run-$second")])
        ->toBe(["annex-run-$first", "annex-run-$first"])
        ->and(array_column($this->told(0, 'standing')['standing'], 'annex'))->toBe(["annex-run-$first", "annex-run-$first"])
        ->and($this->told(0, 'annex', $second)['with'])->toBe([(int) $first])
        ->and($this->kaiseki('annex', $first)->text)->toContain("tender is in it as well (run $second)")
        ->and(Run::query()->find($second)->plan['sentence'])->toContain("in the annex of run $first");

    // What wanted out is in the record of both.
    $card = new CardAtWork(KeptAnnex::of($this->host->folder, "annex-run-$first"), 'tern', '02:00:00:00:00:01');
    untilWrittenDown($this, $card, $second);
    $this->told(0, 'discard', $first);
    expect($this->hypervisor->room()->annexes)->toBe(["annex-run-$first"])
        ->and($this->hypervisor->machine("tender.standing-run-$second")->isRunning())->toBeTrue()
        ->and($this->told(0, 'annex', $first))->toMatchArray(['ended' => 'dropped', 'with' => [(int) $second]])
        ->and($this->told(0, 'annex', $second)['wanted'][0]['sender'])->toBe('tern')
        ->and($this->told(3, ...[...$up, "--join=$first", '--name=third', '--new-mac'])['error'])->toContain('is in an annex at ketch now');
    $this->told(0, 'release', $second, '--unscanned');
    expect($this->hypervisor->room()->annexes)->toBe([])
        ->and($network("tender.standing-run-$second"))->toBe('harbour');
    $this->told(0, 'discard', $second);
});

it('keeps a machine that attacks from inside apart, and answers the desk through its door', function (): void {
    $images = $this->scratch()->at('images');
    $machine = new SorrelSoundMachine($this->scratch()->at('work'), $images, 'planner', Guest::system());
    $machine->live(new DateTimeImmutable('2026-10-20'), 2);
    $this->kaiseki('adopt', $images, '--as=planner', '--kind=machine');
    $settings = $this->host->machine('planner', system: $this->scratch()->file('empty', str_repeat("\0", 512)));
    $this->hypervisor->configure('planner', $settings->with(cards: [new CardSettings('harbour', '02:00:00:00:00:07')]));
    $known = ['--as=planner', '--asked=/cgi-bin/state', '--answers=system.2/etc/machine-id', '--answers=system.2/var/lib/counter'];
    $this->told(0, 'machine', 'known', 'planner', '--on=ketch', ...$known);
    $up = ['restore', 'planner', '--at=2026-10-21T23:59:00Z', '--stand-up', '--annex', '--on=ketch', '--memory=192'];
    $told = $this->told(0, ...$up);
    expect(array_column($told['checks'], 'result'))->toBe(['passed', 'passed', 'passed']);
    $run = (string) $told['run'];

    // What it must not reach: whatever listens on this machine, at its loopback and at its own addresses.
    $desk = stream_socket_server('tcp://0.0.0.0:0');
    $port = (int) substr((string) strrchr((string) stream_socket_get_name($desk, false), ':'), 1);
    $own = trim(explode(' ', (new Process(['hostname', '-I']))->mustRun()->getOutput())[0]) ?: '192.0.2.99';
    $neighbour = new CardAtWork(KeptAnnex::of($this->host->folder, "annex-run-$run"), 'tern', '02:00:00:00:00:01');
    $tries = function (string ...$command) use ($run): string {
        $told = inside($this, $run, 'an attack', ...$command);

        return "{$told['state']} {$told['result']}";
    };
    foreach (["10.0.2.2:$port", "127.0.0.1:$port", "$own:$port", '198.51.100.7:8080'] as $to) {
        expect($tries('timeout', '1', 'wget', '-q', '-O', '-', "http://$to/"))->toStartWith('failed exit status');
    }
    expect($tries('timeout', '1', 'nslookup', 'rates.example', '10.0.2.3'))->toStartWith('failed')
        ->and($tries('ping', '-c', '1', '-W', '1', '203.0.113.9'))->toStartWith('failed');
    $tries('ping', '-c', '1', '-W', '1', '10.0.2.77');
    $isSought = fn (string $frame): bool => substr($frame, 12, 2) === "\x08\x06" && substr($frame, 38, 4) === inet_pton('10.0.2.77');
    do {
        $heard = $neighbour->receive();
    } while ($heard !== null && ! $isSought($heard));
    expect($heard)->not->toBeNull()
        ->and(stream_select(...[[$desk], null, null, 0]))->toBe(0);
    $words = fn (array $one): string => "{$one['protocol']} {$one['to']} {$one['port']}";
    $wanted = fn (): array => array_map($words, $this->told(0, 'annex', $run)['wanted']);
    for ($i = 0; $i < 60 && ! in_array('TCP 198.51.100.20 80', $wanted(), true); $i++) {
        sleep(1); // it asks for the tides by itself, now and then
    }
    expect($wanted())->toContain("TCP 10.0.2.2 $port", "TCP $own $port", 'TCP 198.51.100.7 8080')
        ->toContain('UDP 10.0.2.3 53', 'ICMP 203.0.113.9 ', 'ARP 10.0.2.77 ', 'TCP 198.51.100.20 80')
        ->and(implode("\n", $wanted()))->not->toContain('127.0.0.1')
        ->and(TrailEntry::query()->where('what', 'like', '%wget%an attack%')->count())->toBe(4);

    // Released, it answers from its own network, as itself, with what was done in it.
    expect($tries('sh', '-c', 'echo checked >/srv/checked'))->toStartWith('done');
    $released = $this->told(0, 'release', $run, '--set-aside', '--unscanned');
    $address = $this->hypervisor->machine("planner.standing-run-$run")->address;
    expect(array_column($released['checks'], 'result'))->toBe(['passed', 'passed'])
        ->and(file_get_contents("http://$address/checked"))->toBe("checked\n");
    $proof = file_get_contents(RunFiles::proof(Run::query()->find($released['run'])));
    expect($proof)->toContain('echo checked', 'an attack', 'TCP 198.51.100.7 port 8080');
});
