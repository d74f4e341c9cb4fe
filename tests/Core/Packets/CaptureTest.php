<?php

declare(strict_types=1);

use Kaiseki\Core\Packets\CapturedPacket;
use Kaiseki\Core\Packets\CaptureReading;
use Kaiseki\Core\Packets\CaptureWriter;
use Kaiseki\Core\Packets\Frame;
use Kaiseki\Core\Packets\UnreadableCapture;
use Kaiseki\Core\Packets\Wanted;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Frames;

/** @return resource */
function captureOf(string $bytes)
{
    $file = fopen('php://memory', 'w+b');
    fwrite($file, $bytes);
    rewind($file);

    return $file;
}

/** @return list<CapturedPacket> */
function packetsOf(string $bytes): array
{
    return iterator_to_array((new CaptureReading(captureOf($bytes)))->packets(), false);
}

/** @param  list<array{string, string, float}>  $packets */
function captured(array $packets): string
{
    $file = captureOf('');
    $writer = new CaptureWriter($file, 1 << 24);
    array_map(fn (array $packet): bool => $writer->add(...$packet), $packets);
    rewind($file);

    return (string) stream_get_contents($file);
}

function sent(int $protocol, string $to, string $carried): string
{
    return Frames::ipv4('02:00:00:00:00:02', '02:00:00:00:00:01', $protocol, '10.0.0.1', $to, $carried);
}

it('gives back every packet with who sent it and when', function (): void {
    $random = new Randomizer(new Mt19937(5));
    $packets = [];
    foreach (range(1, 200) as $i) {
        $packets[] = [['tern', 'dünn-lin', 'a'][$i % 3], $random->getBytes($random->getInt(1, 1514)), 1_700_000_000 + $i + 0.25];
    }
    $read = array_map(fn (CapturedPacket $one): array => [$one->sender, $one->bytes, $one->at], packetsOf(captured($packets)));
    expect($read)->toBe($packets);
});

it('reads up to where a record breaks off, at every byte, and refuses one that is damaged', function (): void {
    $bytes = captured([['tern', 'first', 1.0], ['tern', 'second', 2.0]]);
    $whole = array_map(fn (int $length): int => count(packetsOf(substr($bytes, 0, $length))), range(0, strlen($bytes)));
    expect(array_count_values($whole))->toHaveKeys([0, 1, 2])->and($whole)->toBe(array_map(max(...), array_map(
        fn (int $i): array => array_slice($whole, 0, $i + 1),
        array_keys($whole),
    )));
    $random = new Randomizer(new Mt19937(9));
    foreach (range(1, 2000) as $i) {
        $changed = $bytes;
        $changed[$random->getInt(0, strlen($bytes) - 1)] = chr($random->getInt(0, 255));
        try {
            expect(count(packetsOf($changed)))->toBeLessThanOrEqual(2);
        } catch (UnreadableCapture $unreadable) {
            expect($unreadable->getMessage())->toContain('damaged at byte');
        }
    }
    expect(fn () => packetsOf('no record of anything at all'))->toThrow(UnreadableCapture::class);
});

it('tells what a frame wants, and of whom', function (string $frame, string $words): void {
    expect(Wanted::inAll([new CapturedPacket('tern', 1.0, $frame)])[0]->words())->toBe($words);
})->with([
    'TCP' => fn (): array => [
        sent(6, '198.51.100.7', Frames::tcp(9, 443, 2)),
        'TCP 198.51.100.7 port 443',
    ],
    'a name' => fn (): array => [
        sent(17, '192.0.2.53', Frames::udp(9, 53, Frames::question('a.b'))),
        'UDP 192.0.2.53 port 53, for a.b',
    ],
    'a name that turns the direction' => fn (): array => [
        sent(17, '192.0.2.53', Frames::udp(9, 53, Frames::question("\u{202E}<b>"))),
        'UDP 192.0.2.53 port 53, for ????b?',
    ],
    'IPv6' => fn (): array => [
        Frames::ethernet(
            '33:33:00:00:00:01',
            '02:00:00:00:00:01',
            0x86DD,
            "\x60\0\0\0\0\0\x3a\xff".inet_pton('fe80::1').inet_pton('ff02::2'),
        ),
        'ICMPv6 ff02::2',
    ],
    'a later fragment, in which no ports stand' => fn (): array => [
        substr_replace(
            sent(17, '192.0.2.53', Frames::udp(9, 53, 'xxxxxxxx')),
            "\0\x10",
            20,
            2,
        ),
        'UDP 192.0.2.53',
    ],
    'what is none of those' => fn (): array => [
        Frames::ethernet('01:80:c2:00:00:00', '02:00:00:00:00:01', 0x88CC, 'x'),
        'Ethernet, type 88cc 01:80:c2:00:00:00',
    ],
    'too short' => ['abc', 'nobody: too short to be a frame'],
]);

it('takes any bytes for what they are', function (): void {
    $random = new Randomizer(new Mt19937(3));
    foreach (range(1, 3000) as $i) {
        $types = ["\x08\x00", "\x08\x06", "\x86\xdd", "\x08\x00\x45", "\x08\x00\x4f\0\0\0\0\0\0\0\0\x06"];
        $bytes = $random->getBytes(12).$types[$i % 5].$random->getBytes($random->getInt(1, 80));
        expect(strlen((string) Frame::of($bytes)?->protocol))->toBeGreaterThan(0);
    }
});

it('counts what is the same once, and what is too much together', function (): void {
    $packets = [];
    foreach (range(0, 2999) as $i) {
        $to = '198.51.'.intdiv($i, 250).'.'.($i % 250);
        $packets[] = new CapturedPacket('tern', (float) $i, sent(6, $to, Frames::tcp(9, 1, 2)));
    }
    $wanted = Wanted::inAll([...$packets, ...array_slice($packets, 0, 10)]);
    expect($wanted)->toHaveCount(1001)->and($wanted[0]->packets)->toBe(2)->and([$wanted[0]->first, $wanted[0]->last])->toBe([0.0, 0.0])
        ->and(end($wanted)->words())->toBe('many others')
        ->and(array_sum(array_column($wanted, 'packets')))->toBe(3010);
});
