<?php

declare(strict_types=1);

use App\Jobs\ExpireByRules;
use App\Jobs\ExpireWorkload;
use App\Jobs\Line;
use App\Jobs\NightWork;
use App\Jobs\ReadBackByPlan;
use App\Jobs\ReadBackStore;
use App\Models\Workload;
use App\NamedLock;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;

it('takes numbers of workers, and refuses what is none', function (): void {
    expect(Line::numbers('')['runs'])
        ->toBe(2)
        ->and(array_keys(Line::numbers('')))
        ->toBe(array_column(Line::cases(), 'value'))
        ->and(Line::numbers('5')['runs'])
        ->toBe(5)
        ->and(Line::numbers(' runs=3, copies=2 '))
        ->toMatchArray(['runs' => 3, 'copies' => 2, 'sets' => 2, 'clock' => 1]);
    foreach (['0', '-1', 'runs', 'runs=', 'runs=65', 'runs=1e1', 'hurry=2', 'runs=2=3', '007'] as $wrong) {
        expect(fn () => Line::numbers($wrong))->toThrow(InvalidArgumentException::class, "Not: $wrong");
    }
});

it('has a line for every job', function (string $class): void {
    $constructor = (new ReflectionClass($class))->getConstructor();
    $lines = file((string) $constructor?->getFileName()) ?: [];
    $body = implode(
        '',
        array_slice($lines, (int) $constructor?->getStartLine(), (int) $constructor?->getEndLine() - (int) $constructor?->getStartLine()),
    );
    expect($body)->toContain('->onQueue(Line::');
})->with(
    fn (): array => array_values(
        array_filter(
            array_map(
                fn (string $file): string => 'App\\Jobs\\'.basename($file, '.php'),
                glob(dirname(__DIR__, 3).'/app/Jobs/*.php') ?: [],
            ),
            fn (string $class): bool => $class !== Line::class,
        ),
    ),
);

it('keeps what the clock begins out of the lines of what takes long, and never twice in line', function (): void {
    $events = app(Schedule::class)->events();
    expect(count($events))->toBeGreaterThan(5);
    config(['queue.default' => 'database']);
    foreach ([1, 2] as $_) {
        foreach ($events as $event) {
            $event->run(app());
        }
    }
    expect(DB::table('jobs')->selectRaw('queue, COUNT(*) AS n')->groupBy('queue')->orderBy('queue')->pluck('n', 'queue')->all())->toBe([
        'alarms' => 2,
        'clock' => 10,
        'looks' => 2,
        'sets' => 1,
        'texts' => 3,
    ]);
});

it('gives each workload that expires, each store that is read back and each work of the night a job of its own', function (): void {
    Queue::fake();
    $ids = [];
    foreach (['one', 'two', 'three'] as $name) {
        $ids[] = Workload::query()->create(['name' => $name, 'kind' => 'files'])->id;
        $this->kaiseki('store-add', $name, $this->scratch()->folder($name));
    }
    foreach ([[$ids[0], true], [$ids[1], false]] as [$id, $itself]) {
        DB::table('keep_rules')->insert(['workload_id' => $id, 'rule' => 'last=2', 'every_night' => $itself]);
    }
    $killed = ['workload_id' => $ids[2], 'copy_id' => 0, 'set_name' => 'gone', 'store_name' => 'near', 'bytes' => 1, 'turn' => 1];
    DB::table('expiries')->insert([$killed, ['turn' => 2] + $killed]);
    DB::table('stores')
        ->whereIn('name', ['one', 'two'])
        ->update(['check_bytes_a_night' => 1]);
    foreach ([new ExpireByRules, new ReadBackByPlan, new NightWork] as $job) {
        $job->handle();
    }
    Queue::assertPushed(ExpireWorkload::class, 2);
    Queue::assertPushed(fn (ExpireWorkload $job): bool => $job->workload === $ids[2]);
    Queue::assertPushed(ReadBackStore::class, 2);
    foreach (NightWork::PARTS as $part) {
        Queue::assertPushed($part, 1);
        expect(is_a($part, ShouldBeUnique::class, true))->toBeTrue();
    }
});

it('locks by name for as long as the one who has it lives', function (): void {
    $other = DB::connectUsing('other', config('database.connections.'.config('database.default')));
    $held = 'kaiseki-'.md5(DB::connection()->getDatabaseName().'plan 7');
    expect((int) $other->scalar('SELECT GET_LOCK(?, 0)', [$held]))->toBe(1)->and(NamedLock::take('plan 7'))->toBeFalse();
    $done = [];
    NamedLock::unlessHeld('plan 7', function () use (&$done): void {
        $done[] = 'held';
    });
    $other->disconnect();
    while (! NamedLock::take('plan 7')) {
        // the server notices the end of a connection a moment later
        usleep(10_000);
    }
    NamedLock::free('plan 7');
    NamedLock::unlessHeld('plan 7', function () use (&$done): void {
        $done[] = 'free';
    });
    expect($done)->toBe(['free']);
});
