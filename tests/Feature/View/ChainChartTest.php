<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\Points;
use App\View\ChainChart;
use App\View\ChartPost;
use App\View\ChartRail;
use App\View\ChartWindow;
use Carbon\CarbonImmutable;
use Illuminate\Http\Request;
use Kaiseki\Core\Instant;

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
            'workload_id' => $workload->id,
            'history_id' => $history->id,
            'name' => "drawn.$level.{$at->format('Ymd')}",
            'level' => $level,
            'instant' => $at->getTimestamp() * 1_000_000,
            'captured_at' => $at,
            'base_id' => match ($level) {
                'full' => null,
                'diff' => $full?->id,
                default => $base?->id,
            },
            'bytes' => 10,
            'cataloged' => 'whole',
            'tree_files' => 5,
        ]);
        Copy::query()->create([
            'set_id' => $set->id,
            'store_id' => $store->id,
            'path' => $set->name,
            'bytes' => 10,
            'state' => $day % 10 === 5 ? 'missing' : 'offline',
        ]);
        $base = $set;
        $full = $level === 'full' ? $set : $full;
    }

    return $workload;
}

/** @param  array<string, string>  $more */
function chartOf(Workload $workload, float $days, string $wanted, array $more = []): ChainChart
{
    $points = new Points($workload);
    $point = $points->lastBefore(Instant::of(CarbonImmutable::parse($wanted)));

    return new ChainChart(
        $points,
        $point,
        CarbonImmutable::parse($wanted),
        ChartWindow::of(Request::create('/', 'GET', ['days' => $days] + $more)),
        'Europe/Oslo',
        [],
    );
}

it('draws posts by level, tied to their bases, with the chosen chain told apart', function (): void {
    $chart = chartOf(drawnWorkload(40), 14, '2026-01-24T12:00:00Z');
    $heights = [];
    foreach ($chart->posts as $post) {
        $heights[$post->set->level->name] = $chart->tall($post->set);
    }
    expect($heights['full'])->toBeGreaterThan($heights['diff'])->and($heights['diff'])->toBeGreaterThan($heights['incr']);
    // Saturday's increment rests on those since Wednesday's differential, and that on Sunday's full.
    $own = array_filter($chart->posts, fn (ChartPost $post): bool => $chart->isOwn($post->set));
    expect(array_values(array_map(fn (ChartPost $post): string => $post->set->level->name, $own)))->toBe([
        'full',
        'diff',
        'incr',
        'incr',
        'incr',
    ]);
    expect(array_filter($chart->rails(), fn (ChartRail $rail): bool => $rail->isOwn))->toHaveCount(4);
    $last = null;
    foreach ($chart->posts as $post) {
        expect($post->x)
            ->toBeGreaterThan($last ?? 0)
            ->toBeLessThan(ChainChart::WIDTH);
        $last = $post->x;
    }
});

it('shows a copy that is not there as a gap, and one of several as a segment', function (): void {
    $chart = chartOf(drawnWorkload(12), 14, '2026-01-14T12:00:00Z');
    foreach ($chart->posts as $i => $post) {
        expect($chart->segments($post->set)[0]->isGone)->toBe($i % 10 === 5);
        $height = array_sum(array_column($chart->segments($post->set), 'height')) + 2 * (count($chart->segments($post->set)) - 1);
        expect($height)->toEqualWithDelta($chart->tall($post->set), 0.2);
    }
});

it('never draws more than fits, keeps the chosen chain and the fulls, and says for how many each post stands', function (): void {
    $workload = drawnWorkload(620);
    $chart = chartOf($workload, 600, '2027-08-10T12:00:00Z');
    expect(count($chart->posts))->toBeLessThanOrEqual(ChainChart::MOST_POSTS);
    expect(array_filter($chart->posts, fn (ChartPost $post): bool => $chart->isChosen($post->set)))->toHaveCount(1);
    expect(count(array_filter($chart->posts, fn (ChartPost $post): bool => $post->set->level->isFull())))->toBeGreaterThan(60);
    expect(array_sum(array_map(fn (ChartPost $post): int => $post->standsFor, $chart->posts)))->toBe($chart->found);
    expect(count($chart->labels()))->toBeLessThan(20);
});

it('draws as one what would stand on top of each other, however few they are', function (): void {
    $workload = drawnWorkload(40);
    $chart = chartOf($workload, 2000, '2026-02-10T12:00:00Z');
    expect(count($chart->posts))
        ->toBeLessThan(4)
        ->and(array_sum(array_map(fn (ChartPost $post): int => $post->standsFor, $chart->posts)))
        ->toBe(40);
    foreach ([14, 60, 200, 700, 4000] as $days) {
        $posts = chartOf($workload, $days, '2026-02-10T12:00:00Z')->posts;
        $gaps = array_map(fn (ChartPost $a, ChartPost $b): float => $b->x - $a->x, array_slice($posts, 0, -1), array_slice($posts, 1));
        sort($gaps);
        expect($gaps[intdiv(count($gaps), 2)] ?? 9.0)->toBeGreaterThanOrEqual(3.5, "over $days days");
    }
});

it('shows only the levels and states that are asked for, and the chosen point in any case', function (): void {
    $workload = drawnWorkload(40);
    $levels = fn (ChainChart $chart): array => array_values(
        array_unique(
            array_map(
                fn (ChartPost $post): string => $post->set->level->name,
                array_filter($chart->posts, fn (ChartPost $post): bool => ! $chart->isChosen($post->set)),
            ),
        ),
    );
    expect($levels(chartOf($workload, 30, '2026-01-31T12:00:00Z', ['levels' => 'full,diff'])))->toEqualCanonicalizing(['full', 'diff']);
    expect($levels(chartOf($workload, 30, '2026-01-31T12:00:00Z', ['state' => 'proven'])))->toBe([]);
});

it('puts the labels at round hours of the clock on the wall, also in the nights in which it changes', function (
    string $wanted,
    array $hours,
): void {
    $labels = array_column(chartOf(drawnWorkload(3), 0.4, $wanted, ['mid' => (string) strtotime($wanted)])->labels(), 'text');
    expect(array_values(array_intersect($labels, $hours)))->toBe($hours);
})->with([
    'set forward: no 02:00' => ['2026-03-29T01:00:00Z', ['01:00', '03:00', '04:00']],
    'set back: two 02:00' => ['2026-10-25T01:00:00Z', ['01:00', '02:00', '02:00', '03:00']],
]);

it('has something to say where nothing was made', function (): void {
    $chart = chartOf(drawnWorkload(3), 7, '2020-01-01T00:00:00Z');
    expect($chart->posts)->toBe([])->and($chart->rails())->toBe([]);
});
