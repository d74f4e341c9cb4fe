<?php

declare(strict_types=1);

use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Chain\StoreRate;
use Kaiseki\Core\Estimate\Costs;
use Kaiseki\Core\Estimate\DurationRange;
use Kaiseki\Core\Estimate\MeasuredRate;
use Kaiseki\Core\Estimate\RestoreEstimate;
use Kaiseki\Core\Instant;
use Random\Engine\Mt19937;
use Random\Randomizer;

function listOf(int $bytes, float $rate, float $setup = 0.0, CopyState $state = CopyState::Ok, array $media = []): ReadingList
{
    $set = new BackupSet('F', Level::of('full'), Instant::ofMicroseconds(0), $bytes, [
        new SetCopy('s', $state, $media, 0, $state === CopyState::Offline ? $media : []),
    ]);

    return CopyChooser::choose([[$set, $bytes]], new Route(['s' => new StoreRate('here', $rate, $setup)], [], 'here')) ??
        throw new LogicException('no list');
}

// Common practice: a gigabit network with other work on it moves about 60 to 65 MB/s; 90 GB then takes about 23 to 25 minutes.
it('reads 90 GB over a busy gigabit network in 23 to 25 minutes', function (float $rate): void {
    $minutes = listOf(90_000_000_000, $rate)->totalSeconds / 60;
    expect($minutes)->toBeGreaterThan(23.0)->toBeLessThan(25.01);
})->with([60.0, 62.5, 65.0]);

// Common practice: several thousand small files come back in about a minute.
it('guesses about a minute for several thousand small files on a target that was never measured', function (): void {
    $estimate = RestoreEstimate::of(listOf(20_000_000, 100.0), 5000, 20_000_000, new Costs);
    expect($estimate->whole->likely)->toBeGreaterThan(40.0)->toBeLessThan(80.0);
    expect($estimate->files->likely)->toEqualWithDelta(60.0, 1.0);
});

// Common practice: reading an image into place before browsing takes less than a minute (a few GB from a near disk).
it('brings an image of 4 GB into place from a near disk in less than a minute', function (): void {
    expect(listOf(4_000_000_000, 120.0)->totalSeconds)->toBeLessThan(60.0);
});

it('lets measured rates take the place of guesses, and narrows the range with them', function (): void {
    $list = listOf(6_000_000_000, 50.0);
    $guessed = (new Costs)->reading('s', $list->totalSeconds);
    $measured = (new Costs(['s' => MeasuredRate::of([[50.0, 1.0], [48.0, 1.0], [52.0, 1.0]])]))->reading('s', $list->totalSeconds);
    expect($guessed->likely)
        ->toBe($measured->likely)
        ->and($measured->most - $measured->least)
        ->toBeLessThan(($guessed->most - $guessed->least) / 5);
    $files = new Costs([], MeasuredRate::of([[0.0001, 5000.0]]));
    expect($files->files(10_000)->likely)->toEqualWithDelta(1.0, 1e-9);
});

it('counts a way to the shelf once, however many cartridges are carried', function (): void {
    $one = RestoreEstimate::of(listOf(1_000_000, 100.0, 90.0, CopyState::Offline, ['HV1']), 1, 1_000_000, new Costs);
    $two = RestoreEstimate::of(listOf(1_000_000, 100.0, 90.0, CopyState::Offline, ['HV1', 'HV2']), 1, 1_000_000, new Costs);
    expect($one->toFetch)
        ->toBe(['s/HV1'])
        ->and($two->toFetch)
        ->toBe(['s/HV1', 's/HV2']);
    expect($two->fetching->likely)->toBe($one->fetching->likely)->toBeGreaterThan(0.0);
    expect($two->setupSeconds)->toBe(180.0);
    $near = RestoreEstimate::of(listOf(1_000_000, 100.0, 90.0, CopyState::Ok, ['HV1']), 1, 1_000_000, new Costs);
    expect($near->fetching->likely)->toBe(0.0)->and($near->toFetch)->toBe([]);
});

it('takes the median of what was measured by weight, as sorting and counting by hand does', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    for ($round = 0; $round < 200; $round++) {
        $measurements = [];
        for ($i = 0; $i < $random->getInt(1, 12); $i++) {
            $measurements[] = [$random->getInt(1, 50) / 2, (float) $random->getInt(1, 9)];
        }
        $rate = MeasuredRate::of($measurements);
        // Slow and obvious: for each value, how much of the aged weight is not above it.
        $whole = $at = 0.0;
        $best = ['likely' => INF, 'low' => INF, 'high' => INF];
        foreach ($measurements as $age => [, $weight]) {
            $whole += $weight * 0.9 ** $age;
        }
        foreach ($measurements as [$value]) {
            $at = 0.0;
            foreach ($measurements as $age => [$other, $weight]) {
                $at += $other <= $value ? $weight * 0.9 ** $age : 0.0;
            }
            foreach (['low' => 0.1, 'likely' => 0.5, 'high' => 0.9] as $which => $share) {
                if ($at >= $share * $whole - 1e-9) {
                    $best[$which] = min($best[$which], (float) $value);
                }
            }
        }
        expect(['likely' => $rate->likely, 'low' => $rate->low, 'high' => $rate->high])->toBe($best, (string) json_encode($measurements));
    }
})->with([3, 4]);

it('keeps its range in order, and knows what lies in it', function (): void {
    $range = DurationRange::of(10.0, 12.0, 8.0);
    expect([$range->least, $range->likely, $range->most])->toBe([10.0, 10.0, 10.0]);
    $sum = DurationRange::of(10.0, 5.0, 20.0)->plus(DurationRange::of(1.0, 0.5, 2.0));
    expect($sum->holds(22.0))->toBeTrue()->and($sum->holds(22.1))->toBeFalse()->and($sum->holds(5.4))->toBeFalse();
    expect(fn () => MeasuredRate::of([]))->toThrow(InvalidArgumentException::class);
});
