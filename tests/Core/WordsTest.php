<?php

declare(strict_types=1);

use App\Words;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;

it('says sizes in IEC units', function (int $bytes, string $words): void {
    expect(Words::size($bytes))->toBe($words);
})->with([
    [0, '0 B'],
    [1023, '1,023 B'],
    [1024, '1 KiB'],
    [1536, '1.5 KiB'],
    [49152, '48 KiB'],
    [1048575, '1 MiB'],
    [310 << 20, '310 MiB'],
    [44_237_000_000, '41.2 GiB'],
    [5 << 40, '5 TiB'],
]);

it('says durations as one would', function (float $seconds, string $words): void {
    expect(Words::duration($seconds))->toBe($words);
})->with([
    [0.0, '0 s'],
    [0.5, '0.5 s'],
    [9.96, '10 s'],
    [42.0, '42 s'],
    [61.0, '1 min'],
    [1380.0, '23 min'],
    [3600.0, '1 h'],
    [39_960.0, '11 h 06 min'],
    [172_800.0, '2 days'],
    [190_000.0, '2 days 4 h'],
]);

// The night of 25 October 2026 has 02:30 twice in Oslo; that of 29 March has none (IANA time zone database).
it('shows a moment of the night with two 02:30s with its offset', function (): void {
    expect(Words::moment(Instant::parse('2026-10-25T00:30:00Z')->in(), 'Europe/Oslo'))->toBe('Sun 25 Oct 02:30 +02:00');
    expect(Words::moment(Instant::parse('2026-10-25T01:30:00Z')->in(), 'Europe/Oslo'))->toBe('Sun 25 Oct 02:30 +01:00');
    expect(Words::moment(Instant::parse('2026-03-29T01:30:00Z')->in(), 'Europe/Oslo', false))->toBe('Sun 29 Mar 03:30');
    expect(Words::moment(Instant::parse('2019-03-29T01:30:00Z')->in(), 'UTC', false))->toBe('Fri 29 Mar 2019 01:30');
});

it('counts in words', function (): void {
    expect([Words::count(1, 'file'), Words::count(2, 'file'), Words::count(0, 'entry', 'entries'), Words::count(1200, 'file')])->toBe([
        '1 file',
        '2 files',
        '0 entries',
        '1,200 files',
    ]);
});

it('reads demands as they are written, and writes them back', function (string $list, string $back): void {
    expect(Demands::parse($list)->list())->toBe($back);
})->with([['consistent,clear', 'consistent,clear'], ['none', 'none'], ['', 'none'], ['checked, site=pier-nine', 'checked,site=pier-nine']]);

it('refuses demands that are none', function (string $list): void {
    expect(fn () => Demands::parse($list))->toThrow(InvalidArgumentException::class);
})->with([['fast'], ['none,clear'], ['site=']]);

it('knows the levels of the trade', function (string|int $given, string $name, bool $full, ?int $dump): void {
    $level = Level::of($given);
    expect([$level->name, $level->isFull(), $level->dumpLevel()])->toBe([$name, $full, $dump]);
})->with([
    ['full', 'full', true, 0],
    ['FULL', 'full', true, 0],
    [0, '0', true, 0],
    ['5', '5', false, 5],
    ['differential', 'diff', false, null],
    ['inc', 'incr', false, null],
    ['log', 'log', false, null],
]);
