<?php

declare(strict_types=1);

use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Packets\CaptureReading;
use Kaiseki\Core\Packets\Wanted;
use Kaiseki\StandIns\Hypervisor\KeptAnnex;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\CardAtWork;
use Tests\Support\Frames;
use Tests\Support\HypervisorAtWork;

beforeEach(function (): void {
    $this->work = new HypervisorAtWork;
    $this->folder = $this->work->folder;
    $this->host = $this->work->open();
    $this->host->openAnnex('aside');
    $this->annex = KeptAnnex::of($this->folder, 'aside');
});

afterEach(fn () => $this->work->remove());

/** @return list<string> what its machines wanted of others, as "machine: words" */
function wantedIn(KeptAnnex $annex): array
{
    $record = fopen($annex->recordFile(), 'rb');

    return array_map(
        fn (Wanted $one): string => "{$one->sender}: {$one->words()}",
        Wanted::inAll((new CaptureReading($record))->packets()),
    );
}

/** Waits until the record says so. */
function untilWanted(KeptAnnex $annex, string $line): void
{
    for ($i = 0; $i < 500 && ! in_array($line, wantedIn($annex), true); $i++) {
        usleep(20_000);
    }
    expect(wantedIn($annex))->toContain($line);
}

const TERN = '02:00:00:00:00:01';
const DUNLIN = '02:00:00:00:00:02';
const ROUTER = '52:55:0a:00:02:02';

it('passes on what is for a neighbour, and writes nothing of it down', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $dunlin = new CardAtWork($this->annex, 'dunlin', DUNLIN);
    $asks = Frames::arp(TERN, '10.0.2.20', '10.0.2.21');
    $tern->send($asks);
    expect($dunlin->hears($asks))->toBeTrue();
    $answers = Frames::arp(DUNLIN, '10.0.2.21', '10.0.2.20', isAnswer: true, to: TERN);
    $dunlin->send($answers);
    expect($tern->hears($answers))->toBeTrue();
    $tries = Frames::ipv4(DUNLIN, TERN, 6, '10.0.2.20', '10.0.2.21', Frames::tcp(4000, 80, 2));
    $tern->send($tries);
    expect($dunlin->hears($tries))->toBeTrue();
    $tern->send(Frames::ipv4(ROUTER, TERN, 17, '10.0.2.20', '10.0.2.3', Frames::udp(4000, 53, Frames::question('rates.example'))));
    untilWanted($this->annex, 'tern: UDP 10.0.2.3 port 53, for rates.example');

    // The one question for an address of which nobody had been heard is there, and no word between the two.
    expect(wantedIn($this->annex))->toBe(['tern: ARP 10.0.2.21', 'tern: UDP 10.0.2.3 port 53, for rates.example']);
});

it('writes down each packet that wanted out, and lets none reach the door', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $sent = [];
    foreach ([
        [6, '198.51.100.7', Frames::tcp(4001, 443, 2)],
        [17, '198.51.100.7', Frames::udp(4002, 123, str_repeat("\0", 48))],
        [1, '203.0.113.9', "\x08\0\0\0\0\1\0\1"],
        [6, '10.0.2.2', Frames::tcp(4003, 22, 2)],
        [17, '10.0.2.3', Frames::udp(4004, 53, Frames::question('a.example'))],
    ] as [$protocol, $to, $carried]) {
        $tern->send($sent[] = Frames::ipv4(ROUTER, TERN, $protocol, '10.0.2.20', $to, $carried));
    }
    $tern->send($sent[] = Frames::ipv4(ROUTER, '02:00:00:00:00:99', 6, '10.0.2.20', '198.51.100.7', Frames::tcp(4001, 80, 2)));
    untilWanted($this->annex, 'tern: TCP 198.51.100.7 port 80');
    $record = fopen($this->annex->recordFile(), 'rb');
    $packets = iterator_to_array((new CaptureReading($record))->packets(), false);
    expect(array_column($packets, 'bytes'))->toBe($sent);

    // The ordinary tool reads it too, and sees the same.
    $tcpdump = (new Process(['tcpdump', '-nn', '-r', $this->annex->recordFile()]))->mustRun()->getOutput();
    expect(substr_count(trim($tcpdump), "\n") + 1)->toBe(count($sent))
        ->and($tcpdump)->toContain('10.0.2.20.4001 > 198.51.100.7.443: Flags [S]')
        ->toContain('10.0.2.20.4004 > 10.0.2.3.53: 4660+ A? a.example.')
        ->toContain('> 203.0.113.9: ICMP echo request');
});

it('tells who asks again for an address that nobody has that it is here, to see what would be sent there', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $asks = Frames::arp(TERN, '192.0.2.10', '192.0.2.1');
    $tern->send($asks);
    usleep(600_000);
    $tern->send($asks);
    $answer = (string) $tern->receive();
    expect(substr($answer, 0, 6))->toBe(Frames::mac(TERN))->and(substr($answer, 28, 4))->toBe(inet_pton('192.0.2.1'));
    $nowhere = implode(':', str_split(bin2hex(substr($answer, 6, 6)), 2));
    $tern->send(Frames::ipv4($nowhere, TERN, 6, '192.0.2.10', '198.51.100.7', Frames::tcp(4000, 25, 2)));
    untilWanted($this->annex, 'tern: TCP 198.51.100.7 port 25');

    // Whoever looks whether it has its own address is not told that another has it (RFC 5227).
    $probe = Frames::arp(TERN, '0.0.0.0', '192.0.2.77');
    $tern->send($probe);
    usleep(600_000);
    $tern->send($probe);
    expect($tern->receive(500))->toBeNull();
});

it('asks a machine that says nothing for its address, and leads the desk to it', function (): void {
    $server = stream_socket_server('tcp://127.0.0.1:0');
    $port = (int) substr((string) strrchr((string) stream_socket_get_name($server, false), ':'), 1);
    fclose($server);
    $tern = new CardAtWork($this->annex, 'tern', TERN, $port);
    $asks = fn (string $frame): bool => substr($frame, 12, 2) === "\x08\x06" && substr($frame, 38, 4) === inet_pton('10.0.2.200');
    do {
        $heard = $tern->receive();
    } while ($heard !== null && ! $asks($heard));
    expect($heard)->not->toBeNull();
    $tern->send(Frames::arp(TERN, '10.0.2.200', '10.0.2.2', isAnswer: true, to: ROUTER));

    // Another says that the address is its own: the desk is not led there.
    $dunlin = new CardAtWork($this->annex, 'dunlin', DUNLIN);
    $dunlin->send(Frames::arp(DUNLIN, '10.0.2.200', '10.0.2.2', isAnswer: true, to: ROUTER));
    $dunlin->send(Frames::arp(DUNLIN, '10.0.2.200', '10.0.2.200'));
    while ($tern->receive(500) !== null); // no more is asked
    do {
        usleep(20_000);
        $asked = new Process([PHP_BINARY, '-r', "stream_socket_client('tcp://127.0.0.1:$port', timeout: 1) || exit(1);"]);
    } while ($asked->run() !== 0);
    $begins = fn (string $frame): bool => substr($frame, 23, 1) === "\x06" && substr($frame, 30, 4) === inet_pton('10.0.2.200');
    do {
        $heard = $tern->receive();
        $heard !== null && $asks($heard) && $tern->send(Frames::arp(TERN, '10.0.2.200', '10.0.2.2', isAnswer: true, to: ROUTER));
    } while ($heard !== null && ! $begins($heard));
    expect(substr((string) $heard, 36, 2))->toBe(pack('n', 80))->and(wantedIn($this->annex))->toBe(['dunlin: ARP 10.0.2.2']);
});

it('takes nothing from a socket that was not let in, and stands what is no frame', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $stranger = new CardAtWork($this->annex, 'stranger', DUNLIN, isAdmitted: false);
    $stranger->send(Frames::ipv4(TERN, DUNLIN, 6, '10.0.2.9', '10.0.2.20', Frames::tcp(1, 2, 2)));
    expect($tern->receive(300))->toBeNull();
    $random = new Randomizer(new Mt19937(7));
    foreach (range(0, 300) as $i) {
        $bytes = Frames::mac(ROUTER).Frames::mac(TERN).$random->getBytes($random->getInt(1, 200));
        $tern->send(substr($bytes, 0, $i % 3 === 0 ? $random->getInt(0, 20) : null));
        $i % 50 !== 0 || $tern->receive(1);
    }
    $tern->send(Frames::ipv4(ROUTER, TERN, 6, '10.0.2.20', '198.51.100.7', Frames::tcp(4001, 443, 2)));
    untilWanted($this->annex, 'tern: TCP 198.51.100.7 port 443');
    $stranger->send('x');
    expect(implode("\n", wantedIn($this->annex)))->not->toContain('stranger');
});

it('goes on when its switch was killed, and its record too', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $tries = fn (int $port) => $tern->send(Frames::ipv4(ROUTER, TERN, 6, '10.0.2.20', '198.51.100.7', Frames::tcp(4000, $port, 2)));
    $tries(1);
    untilWanted($this->annex, 'tern: TCP 198.51.100.7 port 1');
    posix_kill((int) file_get_contents($this->annex->pidFile('switch')), SIGKILL);
    for ($i = 0; $i < 200 && ($this->annex->runs('switch')) !== null; $i++) {
        usleep(20_000);
    }
    $this->host = $this->work->open(); // whoever asks next begins it again
    $this->host->room();
    $tries(2);
    untilWanted($this->annex, 'tern: TCP 198.51.100.7 port 2');
    expect(wantedIn($this->annex))->toBe(['tern: TCP 198.51.100.7 port 1', 'tern: TCP 198.51.100.7 port 2']);
});

it('counts what had no room in the record', function (): void {
    $tern = new CardAtWork($this->annex, 'tern', TERN);
    $large = Frames::ipv4(ROUTER, TERN, 17, '10.0.2.20', '198.51.100.7', Frames::udp(1, 2, str_repeat('x', 2000)));
    for ($i = 0; $i < 40_000 && ! is_file($this->annex->beyondFile()); $i++) {
        $tern->send($large);
    }
    expect($this->host->annexRecord('aside', 0)->beyond)->toBeGreaterThan(0)
        ->and(filesize($this->annex->recordFile()))->toBeLessThanOrEqual($this->annex->mostRecorded());
});

it('leaves nothing when it is closed, and is not closed with a machine in it', function (): void {
    $settings = new MachineSettings('tern', [], [new CardSettings('aside', TERN)]);
    $this->host->create($settings, []);
    expect($this->host->room()->annexes)->toBe(['aside'])
        ->and(fn () => $this->host->closeAnnex('aside'))->toThrow(HypervisorFailure::class, 'tern is in the annex aside');
    $this->host->start('tern');
    expect($this->host->machine('tern')->address)->toStartWith('127.0.0.1:');
    $this->host->stop('tern', true);
    $this->host->delete('tern');
    $this->host->closeAnnex('aside');
    $processes = (new Process(['ps', '-eo', 'args', '--no-headers', '-ww']))->mustRun()->getOutput();
    expect($this->work->left())->toBe([])->and($processes)->not->toContain("annex-switch {$this->folder}")
        ->and(glob("{$this->folder}/run/*"))->toBe(glob("{$this->folder}/run/".substr(md5('tern'), 0, 8).'.*'))
        ->and(glob("{$this->folder}/annexes/*"))->toBe([])
        ->and(fn () => $this->host->openAnnex('harbour'))->toThrow(HypervisorFailure::class, 'harbour is a network here');
});
