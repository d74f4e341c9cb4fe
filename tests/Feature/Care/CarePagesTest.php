<?php

declare(strict_types=1);

use App\Care\Expiry;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Hold;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Objective\Standing;
use Kaiseki\StandIns\FileHost;

/* The pages about making, keeping and trusting, as forms: what they do, for whom, and what they refuse. */

beforeEach(function (): void {
    $scratch = $this->scratch();
    foreach (['near' => 'boathouse', 'far' => 'pier-nine'] as $store => $site) {
        $this->kaiseki('store-add', $store, $scratch->folder($store), "--site=$site");
    }
    $source = $scratch->folder('host/files');
    $this->host = new FileHost(dirname($source));
    $this->names = [];
    foreach (range(1, 4) as $day) {
        $scratch->file("host/files/day$day <b>.txt", "day $day");
        $this->host->setClock(Instant::parse("2026-10-0{$day}T02:00:00Z"));
        $this->names[] = $this->kaiseki(
            'protect',
            'crew',
            "--source=$source",
            '--store=near',
            '--level='.($day === 3 ? 'full' : 'incr'),
            '--json',
        )->json()['set'];
    }
    Workload::query()->update(['group' => 'crew office']);
    $this->workload = Workload::query()->sole();
    $this->set = BackupSet::query()->where('name', $this->names[3])->sole();
    $this->operator = $this->person(Role::Operator);
    $this->care = "/workloads/{$this->workload->id}/care";
});

it('shows a set and the care of its workload, and lets only operators of its group change anything', function (): void {
    foreach (["/sets/{$this->set->id}", $this->care, '/estate', '/stores'] as $page) {
        $this->actingAs($this->operator)->get($page)->assertOk()->assertDontSee('day1 <b>', false);
        $this->actingAs($this->person(Role::Auditor))
            ->get($page)
            ->assertOk()
            ->assertDontSee('<button class="btn btn-sm btn-primary"', false);
    }
    foreach ([$this->person(Role::Operator, ['piers']), $this->person(Role::Auditor), $this->person(Role::Requester)] as $person) {
        foreach (
            [
                "/sets/{$this->set->id}/read-back",
                "/sets/{$this->set->id}/mend",
                "/sets/{$this->set->id}/verdict",
                "/sets/{$this->set->id}/holds",
                "/workloads/{$this->workload->id}/sets",
                "/workloads/{$this->workload->id}/rules",
                "/workloads/{$this->workload->id}/expire",
                "/workloads/{$this->workload->id}/promises",
                "/workloads/{$this->workload->id}/schedule",
            ] as $url
        ) {
            $this->actingAs($person)
                ->post($url, ['verdict' => 'doubt', 'reason' => 'x', 'level' => 'full'])
                ->assertForbidden();
        }
    }
    $this->actingAs($this->person(Role::Operator, ['piers']))
        ->get("/sets/{$this->set->id}")
        ->assertForbidden();
    $this->actingAs($this->person(Role::Requester))
        ->post('/sources', ['sources' => ['x']])
        ->assertForbidden();
});

it('takes verdicts and holds with a reason, and lifts holds', function (): void {
    $this->actingAs($this->operator)
        ->post("/sets/{$this->set->id}/verdict", ['verdict' => 'doubt', 'reason' => ' '])
        ->assertSessionHasErrors('reason');
    $this->post("/sets/{$this->set->id}/verdict", ['verdict' => 'doubt', 'reason' => 'A <script> ran.'])->assertRedirect(
        "/sets/{$this->set->id}",
    );
    expect($this->set->refresh()->in_doubt)->toBeTrue();
    $this->get("/sets/{$this->set->id}")
        ->assertSee('A &lt;script&gt; ran.', false)
        ->assertSee('In doubt.');
    $this->post("/sets/{$this->set->id}/holds", ['reason' => 'insurers', 'until' => 'soon'])->assertSessionHasErrors('until');
    $this->post("/sets/{$this->set->id}/holds", [
        'reason' => 'insurers',
        'until' => now()->subYear()->format('Y-m-d'),
    ])->assertSessionHasErrors('hold');
    $this->post("/sets/{$this->set->id}/holds", ['reason' => 'insurers', 'until' => now()->addYear()->format('Y-m-d')]);
    $hold = Hold::query()->sole();
    $this->get($this->care)->assertSee('insurers');
    $other = BackupSet::query()->where('name', $this->names[0])->value('id');
    $this->post("/sets/$other/holds/{$hold->id}/lift")->assertNotFound();
    $this->post("/sets/{$this->set->id}/holds/{$hold->id}/lift");
    expect($hold->refresh()->lifted_at)->not->toBeNull();
});

it('deletes by rule only what was shown, and asks for the name where nothing would be left', function (): void {
    $this->actingAs($this->operator)
        ->post("/workloads/{$this->workload->id}/rules", ['rule' => 'last=0'])
        ->assertSessionHasErrors('rule');
    $this->post("/workloads/{$this->workload->id}/rules", ['rule' => 'sometimes'])->assertSessionHasErrors('rule');
    $this->post("/workloads/{$this->workload->id}/rules", ['rule' => 'last=1'])->assertSessionHasNoErrors();
    $this->get($this->care)->assertSee('2 copies')->assertSee('Yes, delete 2 copies');
    $this->post("/workloads/{$this->workload->id}/expire", ['plan' => 'another'])->assertSessionHasErrors('plan');
    expect(Copy::query()->count())->toBe(4);
    $this->post("/workloads/{$this->workload->id}/expire", ['plan' => (new Expiry($this->workload))->fingerprint()])->assertSessionHas(
        'told',
    );
    expect(BackupSet::query()->orderBy('instant')->pluck('name')->all())->toBe([$this->names[2], $this->names[3]]);
});

it('settles schedules, promises and plans for reading back, and says what is wrong with them', function (): void {
    $near = Store::query()->where('name', 'near')->value('id');
    $schedule = [
        'times' => "30 1 * * 0=full\n30 1 * * 1-6=incr",
        'store' => $near,
        'zone' => 'Europe/Oslo',
        'hours' => '22:00-05:00',
        'copy_to' => [Store::query()->where('name', 'far')->value('id')],
        'on' => 1,
    ];
    $post = fn (array $change) => $this->actingAs($this->operator)->post("/workloads/{$this->workload->id}/schedule", $change + $schedule);
    $wrongs = [['times' => '30 1 30 2 *=full'], ['times' => 'often'], ['hours' => '10:00-11:00'],
        ['zone' => 'Sorrel/Sound'], ['hours' => 'late']];
    foreach ($wrongs as $wrong) {
        $post($wrong)->assertSessionHasErrors('times');
    }
    $post([])->assertSessionHasNoErrors();
    expect(Schedule::query()->sole())
        ->copy_to->toBe(['far'])
        ->window_from->toBe('22:00')
        ->and(Schedule::query()->sole()->next()?->setTimezone('Europe/Oslo')->format('H:i'))
        ->toBe('01:30');
    // What runs on a source's machine is not settled in a browser, and stays when the times are.
    $this->kaiseki('schedule', 'crew', '--cron=30 1 * * *=incr', '--store=near', '--before=["true"]');
    $post(['before' => '["touch", "/tmp/never"]'])->assertSessionHasNoErrors();
    expect(Schedule::query()->sole()->before)->toBe(['true']);
    $this->post("/workloads/{$this->workload->id}/promises", ['rpo' => 'a while'])->assertSessionHasErrors('rpo');
    $this->post("/workloads/{$this->workload->id}/promises", ['rpo' => '26h', 'rto' => '4h', 'outside' => 1]);
    expect($this->workload->refresh())->rpo_s->toBe(93_600)->rto_s->toBe(14_400)->needs_outside_copy->toBeTrue();
    $this->travelTo(new DateTimeImmutable('2026-10-10T02:00:00Z'));
    $this->look();
    $this->get('/estate')->assertSee('Its newest usable point is 6 days old')->assertSee('can only be read at the site of its source');
    $this->post('/stores/near/checks', ['mb' => 'much', 'from' => '01:00', 'until' => '05:00'])->assertSessionHasErrors('mb');
    $this->post('/stores/near/checks', ['mb' => '5', 'from' => '26:00', 'until' => '05:00'])->assertSessionHasErrors('from');
    $this->post('/stores/near/checks', ['mb' => '5', 'from' => '01:00', 'until' => '05:00']);
    expect(Store::query()->where('name', 'near')->value('check_bytes_a_night'))->toBe(5_000_000);
    array_map(fn (string $part) => (new $part)->handle(), App\Jobs\NightWork::PARTS);
    $this->travelTo(new DateTimeImmutable('2026-10-11T02:00:00Z'));
    App\Care\StandingOf::recordAll();
    expect(Illuminate\Support\Facades\DB::table('objective_days')->where('met', false)->count())->toBe(2);
    $this->get('/estate')->assertSee('Of the last 2 days on record the promises were kept on 0');
});

it('has sets made and copies read back by the queue', function (): void {
    config(['queue.default' => 'sync']);
    $this->host->setClock(Instant::parse('2026-10-09T02:00:00Z'));
    $this->actingAs($this->operator)
        ->post("/workloads/{$this->workload->id}/sets", ['level' => 'incr', 'store' => Store::query()->where('name', 'near')->value('id')])
        ->assertSessionHasNoErrors();
    expect(BackupSet::query()->count())->toBe(5);
    $this->post("/sets/{$this->set->id}/read-back", ['chain' => 1]);
    expect(Copy::query()->where('state', 'checked')->count())->toBe(2);
    $this->post("/workloads/{$this->workload->id}/read-back");
    expect(Copy::query()->where('state', 'checked')->count())->toBe(5);
    $file = "{$this->scratch()->path}/near/crew/{$this->set->name}.tar.gz";
    file_put_contents($file, substr((string) file_get_contents($file), 0, -30));
    $this->post("/sets/{$this->set->id}/read-back");
    $this->get("/sets/{$this->set->id}")
        ->assertSee('It was cut short')
        ->assertSee('Mend it');
    $this->post("/sets/{$this->set->id}/mend", ['copy' => $this->set->copies()->value('id')])->assertSessionHasErrors('copy');
    $this->post("/sets/{$this->set->id}/mend", ['copy' => 0])->assertNotFound();
});

it('offers the newest good version of everything where newer points are in doubt in part', function (): void {
    $this->kaiseki('judge', 'crew', $this->names[3], 'doubt', '--reason=The file of that day is not ours.');
    $request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id,
        'requester_id' => $this->operator->id,
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => '2026-10-05 12:00:00',
        'due_at' => now()->addHour(),
    ]);
    (new FilesSaid)
        ->select([''])
        ->keepOn($request)
        ->save();
    $url = "/requests/{$request->id}?show=when";
    $this->actingAs($this->operator)->get($url)->assertSee('A newer point has 1 file that is in doubt or lost, and 3 that are not.');
    $this->post("/requests/{$request->id}/across")->assertRedirect($url);
    $this->get($url)->assertSee('3 files as of this point')->assertSee('each file from the newest point at which it is right');
    $this->post("/requests/{$request->id}/across");
    expect(FilesSaid::of($request->refresh())->acrossPoints)->toBeFalse();
});

it('makes a set of what is there before it is written over, if that is asked for', function (): void {
    Queue::fake();
    $request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id,
        'requester_id' => $this->operator->id,
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => '2026-10-05 12:00:00',
        'due_at' => now()->addHour(),
    ]);
    (new FilesSaid)
        ->select([''])
        ->with(destination: 'own-place', conflict: 'replace')
        ->keepOn($request)
        ->save();
    $this->host->setClock(Instant::parse('2026-10-09T02:00:00Z'));
    file_put_contents("{$this->workload->source}/only now.txt", 'written since');
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}?show=run")
        ->assertSee('Make a set of what is there now before that');
    $this->post("/requests/{$request->id}/run", [
        'order' => (new App\Kinds\Files\Order\Worksheet($request->refresh()))->fingerprint(),
        'set_first' => 1,
    ]);
    $run = Run::query()->sole();
    (new App\Trees\Run\RunCarrier)->carryOut($run);
    $made = $run->refresh()->plan['made_first'];
    expect($run->state)
        ->toBe('done')
        ->and($this->kaiseki('browse', 'crew', '--at=2026-10-09T03:00:00Z', '--json')->text)
        ->toContain('only now.txt')
        ->and(BackupSet::query()->where('name', $made)->exists())
        ->toBeTrue();
    // Where that cannot be done, nothing is put in place.
    $answer = fn (): Tests\Support\Answer => $this->kaiseki(
        'restore',
        'crew',
        "--point={$this->names[0]}",
        '--path=/',
        '--in-place',
        '--conflict=replace',
        '--set-first',
        '--json',
    );
    $this->scratch()->run('rm', '-rf', "{$this->scratch()->path}/near.away");
    Store::query()
        ->where('name', 'near')
        ->update(['read_only' => true]);
    Store::query()
        ->where('name', 'far')
        ->update(['read_only' => true]);
    expect($answer()->json()['error'])
        ->toContain('a set of what is there could not be made first')
        ->toContain('Nothing was put in place');
});

it('says the weightiest concern first', function (): void {
    $standing = fn (array $about): Standing => new Standing(
        ...$about + [
            'ageSeconds' => 3600,
            'rpoSeconds' => 7200,
            'restoreSeconds' => 60.0,
            'lastRestoreSeconds' => null,
            'rtoSeconds' => 120,
            'unusable' => 0,
            'inDoubt' => 0,
            'points' => 5,
            'sourceIsGone' => false,
            'hasSource' => true,
            'isOutside' => true,
            'mustBeOutside' => false,
            'hasSchedule' => true,
            'checkedAgo' => 60,
            'lastFailure' => null,
        ],
    );
    $kinds = fn (array $about): array => array_map(fn ($concern): string => $concern->kind, $standing($about)->concerns());
    expect($kinds([]))
        ->toBe([])
        ->and($standing([])->isMet())
        ->toBeTrue()
        ->and($kinds(['points' => 0, 'ageSeconds' => null]))
        ->toBe(['nothing'])
        ->and($kinds(['ageSeconds' => null, 'unusable' => 5]))
        ->toBe(['unusable'])
        ->and($kinds(['ageSeconds' => 7201, 'inDoubt' => 1, 'unusable' => 2, 'hasSchedule' => false, 'checkedAgo' => null]))
        ->toBe(['rpo', 'doubt', 'part', 'schedule', 'unchecked'])
        ->and($kinds(['lastRestoreSeconds' => 121.0]))
        ->toBe(['rto'])
        ->and($standing(['lastRestoreSeconds' => 121.0])->isMet())
        ->toBeFalse()
        ->and($kinds(['isOutside' => false]))
        ->toBe(['outside'])
        ->and($standing(['isOutside' => false, 'mustBeOutside' => true])->isMet())
        ->toBeFalse()
        ->and($kinds(['sourceIsGone' => true]))
        ->toBe(['gone'])
        ->and($kinds(['lastFailure' => 'the disk is full']))
        ->toBe(['failed']);
});
