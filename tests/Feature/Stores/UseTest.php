<?php

declare(strict_types=1);

use App\Care\HeldDays;
use App\Models\Copy;
use App\Models\Role;
use App\Models\Store;
use App\Models\Workload;
use App\View\UseLine;
use App\View\UseView;
use Illuminate\Support\Facades\DB;
use Tests\Support\Desk;

// How much lies on each store and of each workload, and how that goes.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->workload = Workload::query()->sole();
    $this->store = Store::query()->sole();
    $this->bytes = (int) Copy::query()->sum('bytes');
    $this->day = fn (int $ago, int $bytes) => DB::table('held_days')->insert([
        'day' => now()->utc()->subDays($ago)->format('Y-m-d'), 'store_id' => $this->store->id, 'workload_id' => $this->workload->id,
        'copies' => 1, 'bytes' => $bytes,
    ]);
});

it('writes down once a day what lies where', function (): void {
    HeldDays::record();
    Copy::query()->orderBy('id')->firstOrFail()->delete();
    HeldDays::record();
    expect(HeldDays::of($this->desk->operator, 'store_id', 42))
        ->toBe([$this->store->id => [now()->utc()->format('Y-m-d') => (int) Copy::query()->sum('bytes')]])
        ->and(HeldDays::of($this->desk->operator, 'workload_id', 42, [$this->workload->id + 1]))
        ->toBe([]);
});

it('shows what lies on each store and of each workload, and how that went', function (): void {
    ($this->day)(40, 0);
    ($this->day)(8, $this->bytes + 5000);
    $this->look();
    $page = $this->actingAs($this->desk->operator)->get('/use')->assertOk();
    $page->assertSee($this->store->name)->assertSee($this->workload->name)->assertSee('rate-line', false);
    $lines = (new UseView($this->desk->operator))->stores();
    expect($lines)->toHaveCount(1)->and($lines[0]->bytes)->toBe($this->bytes)->and($lines[0]->growth(7))->toBe(-5000);
    expect($lines[0]->growth(30))->toBe($this->bytes)->and($lines[0]->free)->toBeGreaterThan(0);
    expect((new UseView($this->desk->operator))->workloads()->items()[0]->parts)->toBe([$this->store->name => $this->bytes]);
});

it('reckons how long the room lasts from the last thirty days', function (int $then, int $now, ?int $free, ?int $left): void {
    $line = new UseLine('near', '/stores', 1, $now, [now()->utc()->subDays(30)->format('Y-m-d') => $then], free: $free);
    expect($line->daysLeft())->toBe($left);
})->with([
    'it grows by ten a day' => [100, 400, 55, 5],
    'it does not grow' => [400, 400, 55, null],
    'it shrinks' => [400, 100, 55, null],
    'nobody knows what is free' => [100, 400, null, null],
    'it is full' => [100, 400, 0, 0],
]);

it('sums for nobody what they do not see', function (): void {
    ($this->day)(1, 77_777);
    $this->look();
    $stranger = $this->person(Role::Operator, ['engine room']);
    $this->actingAs($stranger)->get('/use')->assertOk()->assertDontSee($this->workload->name)->assertDontSee($this->store->name);
    expect(HeldDays::of($stranger, 'store_id', 42))->toBe([]);
});

it('keeps what a night wrote down for two years and more, and no longer', function (): void {
    ($this->day)(801, 1);
    ($this->day)(799, 1);
    (new App\Jobs\RecordStandings)->handle();
    expect(DB::table('held_days')->orderBy('day')->pluck('bytes')->all())->toBe([1, $this->bytes]);
});
