<?php

declare(strict_types=1);

use Kaiseki\Core\Instant;
use Kaiseki\Core\Retention\ExpiryPlan;
use Kaiseki\Core\Retention\KeepRule;
use Kaiseki\Core\Retention\KeptSet;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** @return array<string, Instant> */
function setsOn(string ...$moments): array
{
    return array_combine($moments, array_map(fn (string $moment): Instant => Instant::parse($moment), $moments));
}

it('reads rules and says them again', function (): void {
    expect(KeepRule::parse('daily=14, last=7 within=30d weekly=0')->words())
        ->toBe('last=7 daily=14 within=30d')
        ->and(KeepRule::parse('last=0 daily=0')->keepsNothing())
        ->toBeTrue()
        ->and(KeepRule::parse('')->keepsNothing())
        ->toBeTrue();
    foreach (['daily', 'daily=x', 'daily=-1', 'forever=3', 'within=soon', 'last=1.5'] as $wrong) {
        expect(fn () => KeepRule::parse($wrong))->toThrow(InvalidArgumentException::class);
    }
});

it('keeps grandfathers, fathers and sons as the schedule of the literature does', function (): void {
    // The worked example that handbooks give for grandfather-father-son (from memory): a set each weekday; daily ones are kept
    // for a week, the Friday's for a month, the last one of a month for a year. After a year of Mondays to Fridays there are
    // the five of the last week, four Fridays, and twelve month ends; those that are both count once.
    $sets = [];
    for (
        $day = new DateTimeImmutable('2025-01-01T22:00:00Z');
        $day <= new DateTimeImmutable('2025-12-31T22:00:00Z');
        $day = $day->modify('+1 day')
    ) {
        if ((int) $day->format('N') <= 5) {
            $sets[$day->format('Y-m-d')] = Instant::of($day);
        }
    }
    $kept = array_keys(KeepRule::parse('daily=5 weekly=4 monthly=12')->kept($sets, new DateTimeZone('UTC')));
    sort($kept);
    expect($kept)->toBe([
        '2025-01-31',
        '2025-02-28',
        '2025-03-31',
        '2025-04-30',
        '2025-05-30',
        '2025-06-30',
        '2025-07-31',
        '2025-08-29',
        '2025-09-30',
        '2025-10-31',
        '2025-11-28',
        '2025-12-12',
        '2025-12-19',
        '2025-12-25',
        '2025-12-26',
        '2025-12-29',
        '2025-12-30',
        '2025-12-31',
    ]);
});

it('counts days and weeks where the people live, also when clocks change', function (): void {
    // 26 October 2025 has 25 hours in Oslo; 23:30 UTC is the next day there.
    $sets = setsOn('2025-10-25T21:30:00Z', '2025-10-25T22:30:00Z', '2025-10-26T22:30:00Z', '2025-10-26T23:30:00Z');
    $oslo = array_keys(KeepRule::parse('daily=9')->kept($sets, new DateTimeZone('Europe/Oslo')));
    expect($oslo)
        ->toBe(['2025-10-26T23:30:00Z', '2025-10-26T22:30:00Z', '2025-10-25T21:30:00Z'])
        ->and(array_keys(KeepRule::parse('daily=9')->kept($sets, new DateTimeZone('UTC'))))
        ->toBe(['2025-10-26T23:30:00Z', '2025-10-25T22:30:00Z']);
    // ISO 8601: 29 December 2025 lies in the first week of 2026.
    expect(
        array_keys(
            KeepRule::parse('weekly=1')->kept(
                setsOn('2025-12-28T12:00:00Z', '2025-12-29T12:00:00Z', '2026-01-02T12:00:00Z'),
                new DateTimeZone('UTC'),
            ),
        ),
    )->toBe(['2026-01-02T12:00:00Z']);
});

/**
 * The slow and obvious way: every rule by counting, then all that is needed, again and again, until nothing changes.
 *
 * @param  list<KeptSet>  $sets
 * @param  array<string, array<string, int>|null>  $rules
 * @return array<string, true> "set store" of the copies that stay
 */
function staysByCounting(array $sets, array $rules): array
{
    $stays = [];
    foreach ($rules as $store => $rule) {
        $there = array_values(array_filter($sets, fn (KeptSet $set): bool => isset($set->copies[$store])));
        foreach ($there as $set) {
            $keep = $rule === null || $set->held !== null;
            $newer = array_filter($there, fn (KeptSet $other): bool => $other->instant->microseconds > $set->instant->microseconds);
            if ($rule !== null && count($newer) < ($rule['last'] ?? 0)) {
                $keep = true;
            }
            foreach (['daily' => 'Y-m-d', 'weekly' => 'o-W', 'monthly' => 'Y-m'] as $name => $format) {
                $period = fn (KeptSet $of): string => gmdate($format, intdiv($of->instant->microseconds, 1_000_000));
                $isLastOfPeriod = array_filter($newer, fn (KeptSet $other): bool => $period($other) === $period($set)) === [];
                $laterPeriods = array_unique(
                    array_map($period, array_filter($newer, fn (KeptSet $other): bool => $period($other) !== $period($set))),
                );
                if ($rule !== null && isset($rule[$name]) && $isLastOfPeriod && count($laterPeriods) < $rule[$name]) {
                    $keep = true;
                }
            }
            if ($keep) {
                $stays["{$set->id} $store"] = true;
            }
        }
    }

    return $stays;
}

it('expires what no rule keeps and nothing needs, as counting does', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    for ($round = 0; $round < 60; $round++) {
        $sets = [];
        $count = $random->getInt(1, 30);
        for ($i = 0; $i < $count; $i++) {
            $copies = [];
            foreach (['a', 'b', 'c'] as $store) {
                if ($random->getInt(0, 2) > 0) {
                    $copies[$store] = $random->getInt(0, 4) > 0;
                }
            }
            $needs = $i > 0 && $random->getInt(0, 3) > 0 ? ['s'.$random->getInt(max(0, $i - 4), $i - 1)] : [];
            $sets[] = new KeptSet(
                "s$i",
                Instant::ofMicroseconds((1_750_000_000 + $i * 40_000 + $random->getInt(0, 30_000)) * 1_000_000),
                $needs,
                $copies,
                $random->getInt(0, 12) === 0 ? 'for a request' : null,
            );
        }
        $numbers = [];
        foreach (['a', 'b', 'c'] as $store) {
            $numbers[$store] =
                $random->getInt(0, 5) === 0
                    ? null
                    : array_filter([
                        'last' => $random->getInt(0, 3),
                        'daily' => $random->getInt(0, 4),
                        'weekly' => $random->getInt(0, 2),
                        'monthly' => $random->getInt(0, 1),
                    ]);
        }
        $rules = array_map(
            fn (?array $rule): ?KeepRule => $rule === null
                ? null
                : KeepRule::parse(implode(' ', array_map(fn (string $name, int $n): string => "$name=$n", array_keys($rule), $rule))),
            $numbers,
        );
        $plan = ExpiryPlan::of($sets, $rules, new DateTimeZone('UTC'));
        $byId = array_combine(array_map(fn (KeptSet $set): string => $set->id, $sets), $sets);
        $stays = [];
        foreach ($sets as $set) {
            foreach (array_keys($set->copies) as $store) {
                if (! $plan->expires($set->id, $store)) {
                    $stays["{$set->id} $store"] = true;
                }
            }
        }
        // What the rules keep stays.
        $byRules = staysByCounting($sets, $numbers);
        expect(array_diff_key($byRules, $stays))->toBe([], "seed $seed, round $round");
        $isReadable = fn (string $id, array $among): bool => array_filter(
            $byId[$id]->copies,
            fn (bool $readable, string $store): bool => $readable && isset($among["$id $store"]),
            ARRAY_FILTER_USE_BOTH,
        ) !== [];
        $isThere = fn (string $id, array $among): bool => array_filter(
            array_keys($among),
            fn (string $copy): bool => str_starts_with($copy, "$id "),
        ) !== [];
        // Whatever stays has all it needs, on the same store where it was there, and readable if it ever was; and at every step of the
        // deleting.
        $left = [];
        foreach ($sets as $set) {
            foreach (array_keys($set->copies) as $store) {
                $left["{$set->id} $store"] = true;
            }
        }
        foreach ([null, ...$plan->expiring] as $deleted) {
            if ($deleted !== null) {
                unset($left["{$deleted[0]} {$deleted[1]}"]);
            }
            foreach ($sets as $set) {
                foreach ($isThere($set->id, $left) ? $set->needs : [] as $needed) {
                    if (in_array(true, $byId[$needed]->copies, true)) {
                        expect($isReadable($needed, $left))->toBeTrue("seed $seed, round $round: {$set->id} lost $needed");
                    }
                }
            }
        }
        expect($left)->toEqualCanonicalizing($stays);
        // And nothing stays without a reason: taking it away would break a rule, a chain, or the last readable copy.
        foreach (array_diff_key($stays, $byRules) as $copy => $_) {
            [$id, $store] = explode(' ', (string) $copy);
            $without = array_diff_key($stays, [$copy => true]);
            $sameStore =
                array_filter($sets, fn (KeptSet $set): bool => in_array($id, $set->needs, true) && isset($stays["{$set->id} $store"])) !==
                [];
            // A set without a copy passes on what it needs: its own content may lie elsewhere, but not that of what is below it.
            for ($needing = [$id => true], $size = 0; count($needing) > $size;) {
                $size = count($needing);
                foreach ($sets as $set) {
                    $needing += array_intersect_key($needing, array_flip($set->needs)) === [] ? [] : [$set->id => true];
                }
            }
            $needers = array_filter(
                array_keys(array_diff_key($needing, [$id => true])),
                fn (string $needer): bool => $isThere($needer, $stays),
            );
            $lastReadable = $byId[$id]->copies[$store] && ! $isReadable($id, $without) && ($needers !== [] || $isThere($id, $without));
            expect($sameStore || $lastReadable)->toBeTrue("seed $seed, round $round: $copy stays for nothing");
        }
    }
})->with(range(1, 10));
