<?php

declare(strict_types=1);

use App\Models\Copy;
use App\Models\Lane;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Runs\Measurements;
use App\Sets\RatesNow;
use App\View\ChartWindow;
use App\View\TrendLine;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\ReadAmount;

beforeEach(function (): void {
    $this->near = Store::query()->create(['name' => 'near', 'site' => 'boathouse', 'root' => '/near', 'read_mb_s' => 100]);
    $this->far = Store::query()->create(['name' => 'far', 'site' => 'pier-nine', 'root' => '/far', 'read_mb_s' => 100]);
    Lane::query()->create(['from_site' => 'pier-nine', 'to_site' => 'boathouse', 'mb_s' => 10]);
    $this->stores = Store::query()->get()->keyBy('id')->all();
    $this->measure = fn (string $what, string $subject, float $rate, float $weight = 1e6) => DB::table('rate_measurements')->insert([
        'what' => $what,
        'subject' => $subject,
        'rate' => $rate,
        'weight' => $weight,
        'at' => now(),
    ]);
    $this->rate = fn (string $store): float => RatesNow::read()->route($this->stores, 'boathouse')->megabytesPerSecond($store);
});

it('takes what was set down until something was measured, then the newest measurements', function (): void {
    expect(($this->rate)('near'))->toBe(100.0)->and(($this->rate)('far'))->toBe(10.0);
    ($this->measure)('store', 'near', 42.0);
    ($this->measure)('lane', 'pier-nine>boathouse', 7.5);
    expect(($this->rate)('near'))->toBe(42.0)->and(($this->rate)('far'))->toBe(7.5);
    // Older than the last twenty counts no more.
    for ($i = 0; $i < RatesNow::LAST; $i++) {
        ($this->measure)('store', 'near', 60.0);
    }
    expect(($this->rate)('near'))
        ->toBe(60.0)
        ->and(RatesNow::read()->of('store', 'near')?->count)
        ->toBe(RatesNow::LAST);
});

it('shares a lane with the runs that are on it now', function (): void {
    $workload = Workload::query()->create(['name' => 'w', 'kind' => 'files']);
    $history = App\Models\History::query()->create(['workload_id' => $workload->id, 'name' => '1']);
    $set = App\Models\BackupSet::query()->create([
        'workload_id' => $workload->id,
        'history_id' => $history->id,
        'name' => 's',
        'level' => 'full',
        'instant' => 1,
        'captured_at' => now(),
        'bytes' => 1,
    ]);
    foreach (['running', 'running', 'done', 'waiting'] as $state) {
        Run::query()->create([
            'workload_id' => $workload->id,
            'set_id' => $set->id,
            'state' => $state,
            'plan' => [],
            'estimate' => ['likely' => 1.0, 'least' => 1.0, 'most' => 1.0, 'lanes' => ['pier-nine>boathouse']],
        ]);
    }
    expect(($this->rate)('far'))
        ->toEqualWithDelta(10 / 3, 1e-9)
        ->and(($this->rate)('near'))
        ->toBe(100.0)
        ->and(RatesNow::read()->sharing('pier-nine', 'boathouse'))
        ->toBe(2);
});

it('learns from a run only what that run can tell', function (array $read, array $outcome, float $took, array $expected): void {
    $workload = Workload::query()->create(['name' => 'w', 'kind' => 'files', 'site' => 'boathouse']);
    $history = App\Models\History::query()->create(['workload_id' => $workload->id, 'name' => '1']);
    $set = App\Models\BackupSet::query()->create([
        'workload_id' => $workload->id,
        'history_id' => $history->id,
        'name' => 's',
        'level' => 'full',
        'instant' => 1,
        'captured_at' => now(),
        'bytes' => 1,
    ]);
    $run = Run::query()->create([
        'workload_id' => $workload->id,
        'set_id' => $set->id,
        'state' => 'done',
        'plan' => [],
        'outcome' => $outcome,
        'started_at' => now()->subMilliseconds((int) ($took * 1000)),
        'ended_at' => now(),
    ]);
    $copies = $what = [];
    foreach ($read as $name => $of) {
        $copy = Copy::query()->create([
            'set_id' => $set->id,
            'store_id' => Store::query()->where('name', $name)->value('id'),
            'path' => 'p',
            'bytes' => 1,
            'state' => 'ok',
        ]);
        $copies[$copy->id] = $copy;
        $what[$copy->id] = new ReadAmount(...$of);
    }
    Measurements::of($run, $what, $copies);
    $got = DB::table('rate_measurements')->get()->map(fn (object $row): array => [$row->what, $row->subject, round($row->rate, 1)])->all();
    expect($got)->toEqualCanonicalizing($expected);
})->with([
    'a near store, and the target' => [
        ['near' => ['bytes' => 50_000_000, 'members' => 5, 'seconds' => 1.0]],
        ['files' => 5, 'bytes' => 50_000_000],
        3.0,
        [['store', 'near', 50.0], ['write', 'boathouse', 25.0]],
    ],
    'a lane' => [
        ['far' => ['bytes' => 50_000_000, 'members' => 5, 'seconds' => 10.0]],
        ['files' => 5, 'bytes' => 50_000_000],
        12.0,
        [['lane', 'pier-nine>boathouse', 5.0], ['write', 'boathouse', 25.0]],
    ],
    'too little to tell' => [
        ['near' => ['bytes' => 1_000_000, 'members' => 1, 'seconds' => 0.5]],
        ['files' => 1, 'bytes' => 1_000_000],
        1.0,
        [],
    ],
    'many small files: what each costs' => [
        ['near' => ['bytes' => 5_000_000, 'members' => 5_000, 'seconds' => 1.0]],
        ['files' => 5_000, 'bytes' => 5_000_000],
        500.0,
        [['file', 'boathouse', 0.1]],
    ],
    'a read too short to be timed' => [
        ['near' => ['bytes' => 50_000_000, 'members' => 5, 'seconds' => 0.0]],
        ['files' => 5, 'bytes' => 50_000_000],
        0.0,
        [],
    ],
]);

it('draws a line of rates, and none of one', function (): void {
    expect((new TrendLine([5.0]))->path())
        ->toBe('')
        ->and((new TrendLine([]))->path())
        ->toBe('')
        ->and((new TrendLine([5.0, 10.0, 0.0]))->path())
        ->toStartWith('M0 ')
        ->and(substr_count((new TrendLine([5.0, 10.0, 0.0]))->path(), 'L'))
        ->toBe(2);
});

it('takes only such windows from an address as there can be', function (array $query, float $days, array $levels, string $state): void {
    $window = ChartWindow::of(Request::create('/', 'GET', $query));
    expect($window->days)->toBe($days)->and($window->levels)->toBe($levels)->and($window->state)->toBe($state);
    expect($window->query())->not->toContain('<')->and($window->query())->toMatch('/^(&[a-z]+=[a-z0-9.,-]+)+$/');
})->with([
    [[], 14.0, [], ''],
    [['days' => '42', 'levels' => 'full,diff', 'state' => 'hurt', 'mid' => '1790000000'], 42.0, ['full', 'diff'], 'hurt'],
    [['days' => '0'], ChartWindow::NARROWEST, [], ''],
    [['days' => '-3'], ChartWindow::NARROWEST, [], ''],
    [['days' => '1e9'], ChartWindow::WIDEST, [], ''],
    [['days' => 'NAN', 'mid' => 'now', 'state' => 'all<script>'], 14.0, [], ''],
    [['days' => ['1'], 'levels' => ['full'], 'mid' => ['1']], 14.0, [], ''],
    [['levels' => 'full,"><b>,9'], 14.0, ['full', '9'], ''],
]);

it('turns levels on and off, and goes near and far', function (): void {
    $window = ChartWindow::of(Request::create('/', 'GET', ['days' => '14', 'levels' => 'full']));
    $all = ['full', 'diff', 'incr'];
    expect($window->turned('full', $all))
        ->toBe('&days=14')
        ->and($window->turned('diff', $all))
        ->toBe('&days=14&levels=full,diff')
        ->and(ChartWindow::of(Request::create('/'))->turned('full', $all))
        ->toBe('&days=14&levels=diff,incr')
        ->and($window->inState('proven'))
        ->toBe('&days=14&levels=full&state=proven');
    expect($window->shows('full'))->toBeTrue()->and($window->shows('incr'))->toBeFalse();
    foreach ([['0.25', '6 hours'], ['3', '3 days'], ['14', '2 weeks'], ['180', '6 months'], ['2200', '6 years']] as [$days, $words]) {
        expect(ChartWindow::of(Request::create('/', 'GET', ['days' => $days]))->inWords())->toBe($words);
    }
});
