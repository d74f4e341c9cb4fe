<?php

declare(strict_types=1);

use App\Estate\Points;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\View\ChainChart;
use Carbon\CarbonImmutable;

/** Sets without archives: what the chart draws needs no more. */
function drawnWorkload(int $days): Workload
{
    $workload = Workload::query()->create(['name' => 'drawn', 'kind' => 'files']);
    $history = History::query()->create(['workload_id' => $workload->id, 'name' => '1']);
    $store = Store::query()->create(['name' => 'here', 'site' => 'boathouse', 'root' => '/nowhere']);
    $first = CarbonImmutable::parse('2026-01-04T01:15:00Z');
    $base = $full = null;
    for ($day = 0; $day < $days; $day++) {
        $at = $first->addDays($day);
        $level = $day % 7 === 0 ? 'full' : ($day % 7 === 3 ? 'diff' : 'incr');
        $set = BackupSet::query()->create([
            'workload_id' => $workload->id, 'history_id' => $history->id, 'name' => "drawn.$level.{$at->format('Ymd')}", 'level' => $level, 'instant' => $at->getTimestamp() * 1_000_000,
            'captured_at' => $at, 'base_id' => match ($level) {
                'full' => null, 'diff' => $full?->id, default => $base?->id,
            }, 'bytes' => 10, 'cataloged' => 'whole', 'tree_files' => 5,
        ]);
        Copy::query()->create(['set_id' => $set->id, 'store_id' => $store->id, 'path' => $set->name, 'bytes' => 10, 'state' => $day % 10 === 5 ? 'missing' : 'offline']);
        $base = $set;
        $full = $level === 'full' ? $set : $full;
    }

    return $workload;
}

function chartOf(Workload $workload, int $days, string $wanted): ChainChart
{
    $points = new Points($workload);
    $point = $points->sets->last(fn (BackupSet $set): bool => $set->captured_at->lte(CarbonImmutable::parse($wanted)));

    return new ChainChart($points, $point, CarbonImmutable::parse($wanted), $days, 'Europe/Oslo', []);
}

it('draws posts by level, tied to their bases, with the chosen chain told apart', function (): void {
    $chart = chartOf(drawnWorkload(40), 14, '2026-01-24T12:00:00Z');
    $heights = $chart->sets->mapWithKeys(fn (BackupSet $set): array => [$set->level => $chart->tall($set)]);
    expect($heights['full'])->toBeGreaterThan($heights['diff'])->and($heights['diff'])->toBeGreaterThan($heights['incr']);
    // Saturday's increment rests on those since Wednesday's differential, and that on Sunday's full.
    expect($chart->sets->filter($chart->isOwn(...))->pluck('level')->values()->all())->toBe(['full', 'diff', 'incr', 'incr', 'incr']);
    expect(array_filter($chart->rails(), fn (array $rail): bool => $rail['own']))->toHaveCount(4);
    $last = null;
    foreach ($chart->sets as $set) {
        $x = $chart->x($set->captured_at);
        expect($x)->toBeGreaterThan($last ?? 0)->toBeLessThan(ChainChart::WIDTH);
        $last = $x;
    }
});

it('shows a copy that is not there as a gap, and one of several as a segment', function (): void {
    $chart = chartOf(drawnWorkload(12), 14, '2026-01-14T12:00:00Z');
    foreach ($chart->sets as $i => $set) {
        expect($chart->segments($set)[0]['gone'])->toBe($i % 10 === 5);
        $height = array_sum(array_column($chart->segments($set), 'height')) + 2 * (count($chart->segments($set)) - 1);
        expect($height)->toEqualWithDelta($chart->tall($set), 0.2);
    }
});

it('never draws more than fits, and keeps the chosen chain and the fulls', function (): void {
    $workload = drawnWorkload(420);
    $chart = chartOf($workload, 400, '2026-09-10T12:00:00Z');
    expect($chart->sets->count())->toBeLessThanOrEqual(66);
    expect($chart->sets->filter($chart->isChosen(...)))->toHaveCount(1);
    expect($chart->sets->where('level', 'full')->count())->toBeGreaterThan(40);
    expect(count($chart->days()))->toBeLessThan(20);
});

it('has something to say where nothing was made', function (): void {
    $chart = chartOf(drawnWorkload(3), 7, '2020-01-01T00:00:00Z');
    expect($chart->sets)->toHaveCount(0)->and($chart->rails())->toBe([]);
});
