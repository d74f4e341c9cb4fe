<?php

declare(strict_types=1);

use App\View\ChartWindow;
use App\View\RequestFilter;
use App\View\TimeScale;
use App\View\TrendLine;
use Carbon\CarbonImmutable;
use Illuminate\Http\Request;
use Random\Engine\Mt19937;
use Random\Randomizer;

it('labels round moments of the zone, in order, within the span, and few enough', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $zones = ['UTC', 'Europe/Oslo', 'Asia/Kathmandu', 'Pacific/Chatham', 'America/St_Johns'];
    for ($i = 0; $i < 40; $i++) {
        $zone = $zones[$random->getInt(0, 4)];
        $from = CarbonImmutable::createFromTimestampUTC($random->getInt(1_500_000_000, 1_900_000_000));
        $to = $from->addSeconds((int) (10_800 * 1.45 ** $random->getInt(0, 24)));
        $labels = (new TimeScale($from, $to, $zone))->labels();
        $moments = array_map(fn (array $label): int => $label[0]->getTimestamp(), $labels);
        $sorted = $moments;
        sort($sorted);
        expect($moments)->toBe(array_values(array_unique($sorted)))->and(count($labels))->toBeLessThan(61);
        foreach ($labels as [$at, $words]) {
            expect($at->gte($from) && $at->lt($to))->toBeTrue("$words is outside")
                ->and($at->setTimezone($zone)->format('s'))->toBe('00', "$words of $zone is not round");
        }
    }
})->with([1, 2, 3]);

it('keeps to the hours that pass in the nights in which the clocks are set', function (): void {
    // Europe/Oslo went back on 25 October 2026 at 01:00 UTC: there are two 02:00s (IANA time zone database).
    $hours = (new TimeScale(
        CarbonImmutable::parse('2026-10-24T22:00:00Z'), CarbonImmutable::parse('2026-10-25T06:00:00Z'), 'Europe/Oslo',
    ))->labels();
    expect(array_column($hours, 1))->toBe(['00:00', '01:00', '02:00', '02:00', '03:00', '04:00', '05:00', '06:00']);
    // And ahead on 29 March 2026 at 01:00 UTC: there is no 02:00.
    $hours = (new TimeScale(
        CarbonImmutable::parse('2026-03-28T23:00:00Z'), CarbonImmutable::parse('2026-03-29T04:00:00Z'), 'Europe/Oslo',
    ))->labels();
    expect(array_column($hours, 1))->toBe(['00:00', '01:00', '03:00', '04:00', '05:00']);
});

it('writes days, months and years as wide as there is room', function (int $days, string $first): void {
    $from = CarbonImmutable::parse('2026-01-01T00:00:00Z');
    expect((new TimeScale($from, $from->addDays($days), 'UTC'))->labels()[0][1])->toBe($first);
})->with([
    [1, 'Thu 00:00'], [3, 'Thu 00:00'], [7, 'Thu 00:00'], [14, 'Thu 1 Jan'], [30, 'Thu 1 Jan'], [60, '1 Jan'], [300, 'Jan 26'],
    [4000, '2026'],
]);

it('takes of an address what makes sense, and gives the same back', function (array $query, string $expected): void {
    $window = ChartWindow::of(new Request($query));
    expect($window->query())->toBe($expected);
    parse_str(ltrim($window->query(), '&'), $again);
    expect(ChartWindow::of(new Request($again))->query())->toBe($expected);
})->with([
    'nothing' => [[], '&days=14'],
    'a span' => [['days' => '3.5'], '&days=3.5'],
    'too narrow' => [['days' => '0.0001'], '&days=0.125'],
    'too wide' => [['days' => '1e9'], '&days=4400'],
    'no number' => [['days' => 'NAN'], '&days=14'],
    'a list' => [['days' => ['1'], 'mid' => ['2'], 'levels' => ['x'], 'state' => ['y']], '&days=14'],
    'a middle' => [['mid' => '1764288000'], '&days=14&mid=1764288000'],
    'no middle' => [['mid' => '1764288000;DROP'], '&days=14'],
    'levels' => [['levels' => 'full,incr,<b>'], '&days=14&levels=full,incr'],
    'a state' => [['state' => 'proven'], '&days=14&state=proven'],
    'no state' => [['state' => 'lovely'], '&days=14'],
]);

it('turns a level off and on again; all of them, or none, is no filter', function (): void {
    $all = ['full', 'diff', 'incr'];
    $window = ChartWindow::of(new Request);
    expect($window->turned('incr', $all))->toBe('&days=14&levels=full,diff');
    $without = ChartWindow::of(new Request(['levels' => 'full,diff']));
    expect($without->turned('incr', $all))->toBe('&days=14')
        ->and($without->turned('full', $all))->toBe('&days=14&levels=diff')
        ->and($without->shows('incr'))->toBeFalse()
        ->and($window->shows('incr'))->toBeTrue();
});

it('says a span in the unit in which people count it', function (float $days, string $words): void {
    expect(ChartWindow::of(new Request(['days' => (string) $days]))->inWords())->toBe($words);
})->with([[0.125, '3 hours'], [1, '24 hours'], [3, '3 days'], [14, '2 weeks'], [91, '3 months'], [731, '2 years']]);

it('draws figures between its ground and its top, the newest at the right', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $values = array_map(fn (): int => $random->getInt(0, 10 ** 12), range(1, $random->getInt(2, 60)));
    preg_match_all('/([\d.]+) (-?[\d.]+)/', (new TrendLine($values))->path(), $points, PREG_SET_ORDER);
    expect($points)->toHaveCount(count($values))
        ->and((float) $points[0][1])->toBe(0.0)
        ->and((float) $points[count($points) - 1][1])->toBe((float) TrendLine::WIDTH);
    foreach ($points as $i => [, , $y]) {
        $height = TrendLine::HEIGHT - 1 - (float) $y;
        expect($height)->toBeGreaterThanOrEqual(0.0)->toBeLessThanOrEqual(TrendLine::HEIGHT - 3 + 0.05);
        expect(abs($height - $values[$i] / max($values) * (TrendLine::HEIGHT - 3)))->toBeLessThan(0.06);
    }
})->with([5, 6, 7]);

it('draws nothing of one figure, and a flat line of nothing at all', function (): void {
    expect((new TrendLine([3]))->path())->toBe('')->and((new TrendLine([]))->path())->toBe('');
    expect((new TrendLine([0, 0, 0]))->path())->toBe('M0 17 L45 17 L90 17');
});

it('says a filter of requests in the shortest way, whatever was sent', function (array $query, string $expected): void {
    $filter = new RequestFilter(new Request($query));
    expect($filter->query())->toBe($expected)->and($filter->isNone())->toBe($expected === '');
})->with([
    [[], ''],
    [['q' => '  roster ', 'state' => '', 'workload' => '', 'soon' => ''], 'q=roster'],
    [['q' => '', 'state' => 'closed'], 'state=closed'],
    [['state' => 'burnt', 'workload' => '-1', 'soon' => 'no'], ''],
    [['workload' => '7', 'soon' => '1', 'page' => '3'], 'workload=7&soon=1'],
    [['q' => str_repeat('ø', 300)], 'q='.str_repeat('%C3%B8', 100)],
]);
