<?php

declare(strict_types=1);

use Kaiseki\Core\Instant;
use Kaiseki\Core\Order\LocalTime;
use Kaiseki\Core\Order\WantedWords;
use Random\Engine\Mt19937;
use Random\Randomizer;

function said(string $words, string $zone = 'Europe/Oslo', string $now = '2026-11-23T10:00:00Z'): array
{
    $span = (new WantedWords(Instant::parse($now), $zone))->read($words);

    return [$span->from->iso(), $span->to->iso()];
}

it('takes words for a moment as the span that they mean', function (string $words, string $from, string $to): void {
    expect(said($words))->toBe([$from, $to]);
})->with([
    ['Thursday evening', '2026-11-19T16:00:00Z', '2026-11-19T21:00:00Z'],
    ['on thursday', '2026-11-18T23:00:00Z', '2026-11-19T23:00:00Z'],
    ['yesterday 14:30', '2026-11-22T13:30:00Z', '2026-11-22T13:30:00Z'],
    ['yesterday at 7 pm', '2026-11-22T18:00:00Z', '2026-11-22T18:00:00Z'],
    ['this morning', '2026-11-23T05:00:00Z', '2026-11-23T10:00:00Z'],
    ['last night', '2026-11-22T19:00:00Z', '2026-11-23T05:00:00Z'],
    ['3 days ago', '2026-11-19T23:00:00Z', '2026-11-20T23:00:00Z'],
    ['two hours ago', '2026-11-23T08:00:00Z', '2026-11-23T08:00:00Z'],
    ['last Monday', '2026-11-15T23:00:00Z', '2026-11-16T23:00:00Z'],
    ['Wednesday last week', '2026-11-17T23:00:00Z', '2026-11-18T23:00:00Z'],
    ['last week', '2026-11-15T23:00:00Z', '2026-11-22T23:00:00Z'],
    ['12 Nov', '2026-11-11T23:00:00Z', '2026-11-12T23:00:00Z'],
    ['12.11.', '2026-11-11T23:00:00Z', '2026-11-12T23:00:00Z'],
    ['Dec 24', '2025-12-23T23:00:00Z', '2025-12-24T23:00:00Z'],
    ['end of October', '2026-10-20T22:00:00Z', '2026-10-31T23:00:00Z'],
    ['2026-11-12 19:30', '2026-11-12T18:30:00Z', '2026-11-12T18:30:00Z'],
    ['2026-11-12T19:30', '2026-11-12T18:30:00Z', '2026-11-12T18:30:00Z'],
    ['2026-11-12 19:30 +00:00', '2026-11-12T19:30:00Z', '2026-11-12T19:30:00Z'],
]);

// ISO 8601: week 01 is the one with the first Thursday; 2026-W41 begins on 5 October, 2020 has a week 53.
it('knows weeks by their numbers', function (): void {
    expect(said('week 41'))->toBe(['2026-10-04T22:00:00Z', '2026-10-11T22:00:00Z']);
    expect(said('week 53 2020', 'UTC'))->toBe(['2020-12-28T00:00:00Z', '2021-01-04T00:00:00Z']);
    expect(said('week 48', 'UTC'))->toBe(['2026-11-23T00:00:00Z', '2026-11-23T10:00:00Z']);
    expect(said('week 49', 'UTC')[0])->toBe('2025-12-01T00:00:00Z');
});

it('says what it cannot read', function (string $words, string $says): void {
    expect(fn () => said($words))->toThrow(InvalidArgumentException::class, $says);
})->with([
    ['soonish', 'could not be read'],
    ['', 'could not be read'],
    ['31 Feb', 'no day 31'],
    ['yesterday 25:10', 'There is no'],
    ['13 pm yesterday', 'There is no 13 pm'],
    [str_repeat('x', 300), 'too long'],
]);

// Clock changes of the IANA time zone database: Europe on the last Sundays of March and October at 01:00 UTC, the United
// States on the second Sunday of March and the first of November at 02:00 local, Lord Howe Island by half an hour.
it('tells the night with two of a time from the night with none', function (string $zone, string $local, array $instants): void {
    [$date, $time] = explode(' ', $local);
    [$year, $month, $day] = array_map(intval(...), explode('-', $date));
    [$hour, $minute] = array_map(intval(...), explode(':', $time));
    $found = LocalTime::of($year, $month, $day, $hour, $minute, $zone);
    expect(array_map(fn (Instant $instant): string => $instant->iso(), $found->instants()))->toBe($instants);
    expect($found->skippedAt() === null)->toBe($instants !== []);
})->with([
    'Oslo, two' => ['Europe/Oslo', '2026-10-25 02:30', ['2026-10-25T00:30:00Z', '2026-10-25T01:30:00Z']],
    'Oslo, the first that is there once' => ['Europe/Oslo', '2026-10-25 03:00', ['2026-10-25T02:00:00Z']],
    'Oslo, none' => ['Europe/Oslo', '2026-03-29 02:30', []],
    'Oslo, just before' => ['Europe/Oslo', '2026-03-29 01:59', ['2026-03-29T00:59:00Z']],
    'New York, two' => ['America/New_York', '2026-11-01 01:30', ['2026-11-01T05:30:00Z', '2026-11-01T06:30:00Z']],
    'New York, none' => ['America/New_York', '2026-03-08 02:30', []],
    'Lord Howe, two' => ['Australia/Lord_Howe', '2026-04-05 01:45', ['2026-04-04T14:45:00Z', '2026-04-04T15:15:00Z']],
    'Lord Howe, none' => ['Australia/Lord_Howe', '2026-10-04 02:15', []],
]);

it('offers the second of two times, and the moment of the change for a time that was never shown', function (): void {
    $words = new WantedWords(Instant::parse('2026-11-23T10:00:00Z'), 'Europe/Oslo');
    $two = $words->read('2026-10-25 02:30');
    expect($two->to->iso())
        ->toBe('2026-10-25T00:30:00Z')
        ->and($two->other?->iso())
        ->toBe('2026-10-25T01:30:00Z')
        ->and($two->assumption)
        ->toContain('two 02:30')
        ->toContain('+02:00');
    $none = $words->read('2026-03-29 02:30');
    expect($none->to->iso())->toBe('2026-03-29T01:00:00Z')->and($none->assumption)->toContain('no 02:30')->and($none->other)->toBeNull();
});

it('finds the instants of any local time as trying every quarter of an hour does', function (string $zone): void {
    $random = new Randomizer(new Mt19937(7));
    for ($round = 0; $round < 60; $round++) {
        $month = $random->getInt(0, 1) === 0 ? [3, 10][$random->getInt(0, 1)] : $random->getInt(1, 12);
        [$day, $hour, $minute] = [$random->getInt(1, 28), $random->getInt(0, 23), 15 * $random->getInt(0, 3)];
        if ($random->getInt(0, 1) === 0) {
            [$day, $hour] = [$random->getInt(25, 28), $random->getInt(0, 4)];
        }
        $expected = [];
        for ($at = gmmktime($hour, $minute, 0, $month, $day, 2026) - 86400, $end = $at + 2 * 86400; $at <= $end; $at += 900) {
            if (
                (new DateTimeImmutable("@$at"))->setTimezone(new DateTimeZone($zone))->format('n j G i') ===
                sprintf('%d %d %d %02d', $month, $day, $hour, $minute)
            ) {
                $expected[] = $at * 1_000_000;
            }
        }
        $got = array_map(
            fn (Instant $instant): int => $instant->microseconds,
            LocalTime::of(2026, $month, $day, $hour, $minute, $zone)->instants(),
        );
        expect($got)->toBe($expected, "$zone $month-$day $hour:$minute");
    }
})->with(['Europe/Oslo', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu']);
