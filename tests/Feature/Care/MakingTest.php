<?php

declare(strict_types=1);

use App\Care\NewSources;
use App\Instance;
use App\Jobs\CopySetOn;
use App\Jobs\MakeSet;
use App\Jobs\MakeSetsBySchedule;
use App\Jobs\TakeUpNewSources;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Making;
use App\Models\Role;
use App\Models\Schedule;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Symfony\Component\Filesystem\Filesystem;

/* Making sets: by hand and by schedule, with commands around it, and what goes wrong. */

function sourceAt(Tests\TestCase $test, string $content = 'one'): string
{
    $test->kaiseki('store-add', 'near', $test->scratch()->folder('near'));
    $test->scratch()->file('host/files/a', $content);
    (new FileHost("{$test->scratch()->path}/host"))->setClock(Instant::parse('2026-10-01T02:00:00Z'));

    return "{$test->scratch()->path}/host/files";
}

it('makes the first set of all where no store is known yet', function (): void {
    $this->scratch()->file('files/a', 'one');
    $answer = $this->kaiseki('protect', 'first-tree', "--source={$this->scratch()->at('files')}", '--level=full', '--json');
    expect($answer->code)->toBe(0);
    $store = Instance::path('stores/boathouse');
    expect("$store/first-tree/{$answer->json()['set']}.tar.gz")->toBeFile();
    (new Filesystem)->remove("$store/first-tree");
});

it('captures what the commands around it say, and calls a set consistent only if they went well', function (): void {
    $source = sourceAt($this);
    $answer = $this->kaiseki(
        'protect',
        'tree',
        "--source=$source",
        '--store=near',
        '--level=full',
        '--before=["echo", "tables are locked"]',
        '--after=["sh", "-c", "echo released; touch after-ran"]',
        '--json',
    )->json();
    expect($answer['consistency'])
        ->toBe('application')
        ->and($answer['commands'][0]['output'])
        ->toBe('tables are locked')
        ->and($answer['commands'][1])
        ->toMatchArray(['when' => 'after', 'exit' => 0, 'output' => 'released'])
        ->and(is_file("{$this->scratch()->path}/host/after-ran"))
        ->toBeTrue();
    $record = json_decode((string) file_get_contents("{$this->scratch()->path}/near/tree/{$answer['set']}.set.json"), true);
    expect($record['consistency'])->toBe('application');
    // Of what is not there nothing is brought to rest.
    rename($source, "$source.away");
    unlink("{$this->scratch()->path}/host/after-ran");
    $gone = $this->kaiseki('protect', 'tree', '--store=near', '--before=["touch", "before-ran"]', '--after=["touch", "after-ran"]');
    expect($gone->code)->not->toBe(0)->and(glob("{$this->scratch()->path}/host/*-ran"))->toBe([]);
    rename("$source.away", $source);
    $host = new FileHost("{$this->scratch()->path}/host");
    $host->setClock(Instant::parse('2026-10-02T02:00:00Z'));
    $began = microtime(true);
    $answer = $this->kaiseki(
        'protect',
        'tree',
        '--store=near',
        '--before=["sleep", "600"]',
        '--after=["true"]',
        '--limit=1',
        '--json',
    )->json();
    expect($answer['consistency'])
        ->toBe('none')
        ->and($answer['commands'][0]['exit'])
        ->toBeNull()
        ->and($answer['remarks'][0])
        ->toContain('did not end by itself')
        ->and($answer['commands'][1]['exit'])
        ->toBe(0)
        ->and(microtime(true) - $began)
        ->toBeLessThan(60);
    $host->setClock(Instant::parse('2026-10-03T02:00:00Z'));
    $answer = $this->kaiseki('protect', 'tree', '--store=near', '--before=["sh", "-c", "echo \u001b[31mno; exit 3"]', '--json')->json();
    expect($answer['remarks'][0])
        ->toContain('ended with 3')
        ->not->toContain("\e")
        ->and($this->kaiseki('protect', 'tree', '--store=near', '--before=rest now')->code)
        ->toBe(2);
});

it('leaves no half set when the disk is full, lets the source go on, and the old sets stand', function (): void {
    $source = sourceAt($this);
    $this->kaiseki('protect', 'tree', "--source=$source", '--store=near', '--level=full');
    $small = $this->scratch()->folder('small');
    $this->scratch()->run('mount', '-t', 'tmpfs', '-o', 'size=300k', 'tmpfs', $small);
    try {
        $this->kaiseki('store-add', 'small', $small);
        $this->scratch()->file('host/files/big', random_bytes(900_000));
        (new FileHost("{$this->scratch()->path}/host"))->setClock(Instant::parse('2026-10-02T02:00:00Z'));
        $answer = $this->kaiseki('protect', 'tree', '--store=small', '--level=full', '--after=["touch", "went-on"]');
        expect($answer->code)
            ->not->toBe(0)
            ->and($answer->text)
            ->toContain('is the disk full?')
            ->and(glob("$small/tree/*"))
            ->toBe([])
            ->and(is_file("{$this->scratch()->path}/host/went-on"))
            ->toBeTrue()
            ->and(BackupSet::query()->count())
            ->toBe(1)
            ->and($this->kaiseki('check', 'tree')->code)
            ->toBe(0);
    } finally {
        $this->scratch()->run('umount', $small);
    }
});

it('makes what is due by schedule, once, and copies it on', function (): void {
    config(['queue.default' => 'sync']);
    $source = sourceAt($this);
    $this->kaiseki('store-add', 'far', $this->scratch()->folder('far'));
    $this->kaiseki('protect', 'tree', "--source=$source", '--store=near', '--level=full');
    $host = new FileHost("{$this->scratch()->path}/host");
    $this->travelTo(new DateTimeImmutable('2026-11-21T20:00:00Z'));
    expect(
        $this->kaiseki(
            'schedule',
            'tree',
            '--cron=0 2 * * 1-6=incr',
            '--cron=0 2 * * 0=full',
            '--store=near',
            '--copy-to=far',
            '--json',
        )->json()['next'],
    )->toBe('2026-11-22T02:00:00Z');
    $schedule = Schedule::query()->sole();
    $job = new MakeSetsBySchedule;
    $consider = function (string $at) use ($job, $host, $schedule): void {
        $this->travelTo(new DateTimeImmutable($at));
        $host->setClock(Instant::of(now()));
        $job->consider($schedule->refresh(), now()->toImmutable());
    };
    $consider('2026-11-22T01:59:00Z');
    expect(Making::query()->pluck('why')->all())->toBe(['command line']);
    $consider('2026-11-22T02:00:30Z');
    expect(Making::query()->where('why', 'by schedule')->sole())
        ->state->toBe('done')
        ->level->toBe('full')
        ->and(Copy::query()->whereHas('store', fn ($query) => $query->where('name', 'far'))->count())
        ->toBe(1);
    $consider('2026-11-22T02:01:30Z');
    expect(Making::query()->count())->toBe(2);
    // The desk was down for two nights: what was missed is said, and not made up for at once.
    $consider('2026-11-25T12:00:00Z');
    expect(Making::query()->latest('id')->first())
        ->state->toBe('missed')
        ->failure->toContain('2026-11-25T02:00:00');
    $consider('2026-11-26T02:00:10Z');
    expect(Making::query()->latest('id')->first())
        ->state->toBe('done')
        ->level->toBe('incr')
        ->and(BackupSet::query()->count())
        ->toBe(3);
    foreach (
        [
            ['--cron=0 2 30 2 *=full'],
            ['--cron=0 2 * * *'],
            ['--cron=0 2 * * *=full', '--zone=Nowhere/Land'],
            ['--cron=0 2 * * *=full', '--hours=10:00-12:00'],
            ['--cron=0 2 * * *=full', '--store=nowhere'],
        ] as $wrong
    ) {
        expect($this->kaiseki('schedule', 'tree', ...$wrong)->code)->toBe(2);
    }
    $this->kaiseki('schedule', 'tree', '--off');
    expect($schedule->refresh()->on)->toBeFalse()->and($schedule->next())->toBeNull();
});

it('waits with a copy until its hour', function (): void {
    $this->travelTo(new DateTimeImmutable('2026-11-21T20:00:00Z'));
    expect(CopySetOn::notBefore(null, 'UTC'))
        ->toBeNull()
        ->and(CopySetOn::notBefore('23:30', 'Europe/Oslo')?->utc()->format('c'))
        ->toBe('2026-11-21T22:30:00+00:00')
        ->and(CopySetOn::notBefore('20:30', 'Europe/Oslo')?->utc()->format('c'))
        ->toBe('2026-11-22T19:30:00+00:00');
});

it('says of a set that could not be made why, and ends what a dead worker left', function (): void {
    config(['queue.default' => 'sync']);
    $source = sourceAt($this);
    $this->kaiseki('protect', 'tree', "--source=$source", '--store=near', '--level=full');
    $workload = Workload::query()->sole();
    rename($source, "$source.away");
    MakeSet::begin($workload, App\Models\Store::query()->where('name', 'near')->sole(), 'incr', 'by hand');
    expect(Making::query()->where('why', 'by hand')->sole())
        ->state->toBe('failed')
        ->failure->not->toBeEmpty();
    rename("$source.away", $source);
    Making::query()->create([
        'workload_id' => $workload->id,
        'store_id' => 1 * App\Models\Store::query()->value('id'),
        'level' => 'incr',
        'why' => 'by hand',
        'state' => 'running',
        'worker' => gethostname().':999999:1',
        'started_at' => now(),
    ]);
    (new MakeSetsBySchedule)->handle();
    expect(Making::query()->latest('id')->first()->state)->toBe('failed');
});

it('notices new hosts, and protects them by the rule of their group where there is one', function (): void {
    sourceAt($this);
    Queue::fake();
    $hosts = Instance::folder('hosts');
    foreach (['kiosk-1' => 'piers', 'kiosk-2' => 'piers', 'office-9' => 'crew office'] as $name => $group) {
        mkdir("$hosts/$name/files", 0755, true);
        file_put_contents("$hosts/$name/files/till.csv", $name);
        $host = new FileHost("$hosts/$name");
        $host->setClock(Instant::parse('2026-11-21T20:00:00Z'));
        $host->setGroup($group);
    }
    try {
        expect(array_column((new NewSources)->found(), 'name'))
            ->toBe(['kiosk-1', 'kiosk-2', 'office-9'])
            ->and($this->kaiseki('schedule', '--group=piers', '--cron=30 1 * * *=incr', '--store=near')->code)
            ->toBe(0);
        $operator = $this->actingAs($this->person(Role::Operator));
        $operator->get('/estate')->assertDontSee('office-9'); // a page does not look at hosts
        (new TakeUpNewSources)->handle();
        $operator->get('/estate')->assertSee('office-9')->assertDontSee('name="sources[]" value="kiosk-1"', false);
        $operator->get('/')->assertSee('office-9 is not protected, and no rule takes it up.');
        $this->actingAs($this->person(Role::Operator, ['piers']))->get('/')->assertDontSee('office-9');
        expect(Workload::query()->orderBy('name')->pluck('name')->all())
            ->toBe(['kiosk-1', 'kiosk-2'])
            ->and(Schedule::query()->whereNotNull('workload_id')->count())
            ->toBe(2)
            ->and($this->kaiseki('sources', '--json')->json()['unprotected'])
            ->toBe([['name' => 'office-9', 'group' => 'crew office', 'source' => "$hosts/office-9/files", 'rule' => false]]);
        Queue::assertPushed(MakeSet::class, 2);
        expect($this->kaiseki('sources', 'nobody')->code)
            ->toBe(2)
            ->and($this->kaiseki('sources', '--all')->code)
            ->toBe(0)
            ->and((new NewSources)->found())
            ->toBe([]);
    } finally {
        $this->scratch()->run('rm', '-rf', "$hosts/kiosk-1", "$hosts/kiosk-2", "$hosts/office-9");
    }
});
