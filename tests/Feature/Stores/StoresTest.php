<?php

declare(strict_types=1);

use App\Jobs\BringSetsNear;
use App\Jobs\CarryOutRun;
use App\Jobs\ResumeAbandonedRuns;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\CartridgeCall;
use App\Models\Copy;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Run\RunCarrier;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Tests\Support\TreeListing;

/** Three sets of a small tree of our own on the disk "near"; more stores as each test needs them. */
beforeEach(function (): void {
    $host = new FileHost($this->scratch()->folder('host'));
    $this->source = $this->scratch()->folder('host/files');
    $this->near = $this->scratch()->folder('near');
    $this->out = $this->scratch()->path.'/out';
    $this->kaiseki('store-add', 'near', $this->near);
    $this->sets = [];
    foreach (['full', 'incr', 'incr'] as $i => $level) {
        $host->setClock(Instant::parse('2026-10-0'.($i + 1).'T02:00:00Z'));
        file_put_contents("{$this->source}/file$i", random_bytes(60_000));
        file_put_contents("{$this->source}/often", "version $i");
        $this->sets[] = $this->kaiseki('protect', 'own', "--source={$this->source}", "--level=$level", '--store=near', '--json')->json()[
            'set'
        ];
    }
    $this->tapes = function (int $slots = 2, float $capacity = 1.0): string {
        $folder = $this->scratch()->path.'/tapes';
        $this->kaiseki(
            'store-add',
            'tapes',
            $folder,
            '--kind=tape',
            '--site=hill',
            '--setup-s=0',
            '--wind-mb-s=100000',
            '--read-mb-s=100000',
            '--cartridges=HV1,HV2,HV3,HV4',
            "--slots=$slots",
            "--capacity-mb=$capacity",
        );

        return $folder;
    };
    $this->copyAll = function (string $store): void {
        foreach ($this->sets as $set) {
            $answer = $this->kaiseki('copy', 'own', $set, "--to=$store", '--json');
            expect($answer->code)->toBe(0, $answer->text);
        }
    };
    $this->loseNear = fn () => array_map(unlink(...), glob("{$this->near}/own/*.tar.gz") ?: []);
    $this->restore = fn (string ...$more) => $this->kaiseki(
        'restore',
        'own',
        '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60),
        '--path=/',
        "--to={$this->out}",
        '--json',
        ...$more,
    );
});

it('restores from tape, loading each cartridge once and in winding order', function (): void {
    $folder = ($this->tapes)(4, 0.1); // so small that sets span cartridges
    ($this->copyAll)('tapes');
    ($this->loseNear)();
    $plan = $this->kaiseki('plan', 'own', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--json')->json();
    expect(array_unique(array_column($plan['reading_list'], 'store')))
        ->toBe(['tapes'])
        ->and($plan['to_fetch'])
        ->toBe([]);
    expect(array_filter(array_column($plan['reading_list'], 'medium'), is_array(...)))->not->toBe([]);
    file_put_contents("$folder/drive.log", '');
    @unlink("$folder/drive.json");
    $answer = ($this->restore)();
    expect($answer->code)->toBe(0, $answer->text)->and(TreeListing::of($this->out))->toBe(TreeListing::of($this->source));
    $loads = file("$folder/drive.log", FILE_IGNORE_NEW_LINES) ?: [];
    expect($loads)->toBe(array_values(array_unique($loads)))->and(count($loads))->toBeGreaterThan(1);
});

it('asks for a cartridge on the shelf, waits, and goes on when it has arrived', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    ($this->loseNear)();
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    $answer = ($this->restore)('--no-wait');
    expect($answer->code)
        ->toBe(3, $answer->text)
        ->and($answer->json()['waits_for'])
        ->toBe(['tapes/HV1']);
    $run = Run::query()->sole();
    expect($run->state)
        ->toBe('waiting')
        ->and(
            CartridgeCall::query()
                ->sole()
                ->only(['label', 'run_id', 'arrived_at']),
        )
        ->toBe(['label' => 'HV1', 'run_id' => $run->id, 'arrived_at' => null]);
    expect(file_exists("{$this->out}/file0"))->toBeFalse();
    Queue::fake();
    (new ResumeAbandonedRuns)->handle();
    Queue::assertNotPushed(CarryOutRun::class); // it is still on the shelf
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--arrived');
    Queue::assertPushed(CarryOutRun::class, 1);
    expect($run->refresh()->state)
        ->toBe('queued')
        ->and(CartridgeCall::query()->sole()->arrived_at)
        ->not->toBeNull();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->outcome['right'] ?? null)
        ->toBeTrue()
        ->and(TreeListing::of($this->out))
        ->toBe(TreeListing::of($this->source));
    expect(DB::table('rate_measurements')->where('what', 'fetch')->count())->toBe(1);
});

it('asks for the shelf when what was read instead turns out damaged, and blames no cartridge for standing there', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    foreach (glob("{$this->near}/own/*.tar.gz") ?: [] as $archive) {
        $bytes = (string) file_get_contents($archive);
        file_put_contents($archive, substr_replace($bytes, str_repeat("\xff", 200), intdiv(strlen($bytes), 2), 200)); // as long as before
    }
    $answer = ($this->restore)('--no-wait');
    expect($answer->code)
        ->toBe(3, $answer->text)
        ->and($answer->json()['waits_for'])
        ->toBe(['tapes/HV1']);
    $tapes = Store::query()->where('name', 'tapes')->value('id');
    expect(Copy::query()->where('store_id', $tapes)->where('state', '<>', 'ok')->count())
        ->toBe(0)
        ->and(Copy::query()->where('store_id', '<>', $tapes)->where('state', 'damaged')->count())
        ->toBeGreaterThan(0);
    Queue::fake();
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--arrived');
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->outcome['right'] ?? $run->failure)
        ->toBeTrue()
        ->and(TreeListing::of($this->out))
        ->toBe(TreeListing::of($this->source));
});

it('says of a file that lies on the shelf that it does', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    ($this->loseNear)();
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    $set = Workload::query()->sole()->sets()->orderByDesc('instant')->first();
    $this->actingAs($this->person(Role::Operator))
        ->get("/sets/{$set?->id}/file?path=file0")
        ->assertStatus(409);
    $this->post('/stores/tapes/cartridges/HV1', ['do' => 'arrived']);
    expect(
        $this->get("/sets/{$set?->id}/file?path=file0")
            ->assertOk()
            ->streamedContent(),
    )->toBe(file_get_contents("{$this->source}/file0"));
    $this->post('/stores/tapes/cartridges/HV1', ['do' => 'out'])->assertSessionHas('told');
    $this->get('/stores/tapes/cartridges/HV1')->assertSee('on the shelf outside');
});

it('blames no object for a service that is down', function (): void {
    $folder = $this->scratch()->path.'/objects';
    $this->kaiseki('store-add', 'objects', $folder, '--kind=object');
    ($this->copyAll)('objects');
    ($this->loseNear)();
    $run = heldRun($this);
    Cache::flush();
    new Points(Workload::query()->sole()); // what it listed is believed for a while
    rename($folder, "$folder-gone");
    (new RunCarrier)->carryOut($run);
    expect($run->refresh()->state)
        ->toBe('waiting')
        ->and($run->waits_for)
        ->toBe(['objects'])
        ->and(Copy::query()->where('state', 'damaged')->count())
        ->toBe(0);
});

it('has the pages for the shelf: what is on a cartridge, what it gives alone, and the arrival', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    $page = $this->actingAs($this->person(Role::Operator))->get('/stores/tapes/cartridges/HV1');
    $page->assertOk()->assertSee('3 points could be restored whole from this cartridge alone')->assertSee('Ask for it');
    $this->post('/stores/tapes/cartridges/HV1', ['do' => 'call'])->assertRedirect();
    $this->get('/stores')->assertSee('on the shelf')->assertSee('It has arrived');
    $this->post('/stores/tapes/cartridges/HV1', ['do' => 'arrived'])->assertSessionHas('told');
    $this->get('/stores/tapes/cartridges/HV1')->assertSee('in slot 1')->assertDontSee('Ask for it');
    $this->get('/search?q=hv')->assertSee('/stores/tapes/cartridges/HV1', false)->assertSee('in slot 1');
    $this->get('/search?q=own')->assertSee('/workloads/', false);
    $this->get('/stores/tapes/cartridges/HV9')->assertNotFound();
    $this->get('/stores/near/cartridges/HV1')->assertNotFound();
    $this->actingAs($this->person(Role::Auditor))
        ->post('/stores/tapes/cartridges/HV1', ['do' => 'call'])
        ->assertForbidden();
    $said = $this->kaiseki('cartridge', 'tapes', 'HV1', '--json')->json();
    expect(array_column($said['sets'], 'restorable_alone'))
        ->toBe([true, true, true])
        ->and($said['slot'])
        ->toBe(1);
});

it('keeps copies as objects, and says of a store that does not answer that it does not', function (): void {
    $folder = $this->scratch()->path.'/objects';
    $this->kaiseki('store-add', 'objects', $folder, '--kind=object', '--site=pier-nine');
    ($this->copyAll)('objects');
    expect(is_file("$folder/own/{$this->sets[0]}.set.json"))->toBeTrue();
    ($this->loseNear)();
    expect(($this->restore)()->code)->toBe(0)->and(TreeListing::of($this->out))->toBe(TreeListing::of($this->source));
    rename($folder, "$folder-gone");
    Cache::flush();
    $this->look();
    $this->actingAs($this->person(Role::Operator))->get('/stores')->assertSee('does not answer');
    $points = $this->kaiseki('points', 'own', '--json')->json()['points'];
    expect(array_column($points, 'usable'))->toBe(['no', 'no', 'no']);
    rename("$folder-gone", $folder);
    Cache::flush();
    file_put_contents("$folder/own/{$this->sets[2]}.tar.gz", 'cut');
    $points = $this->kaiseki('points', 'own', '--json')->json()['points'];
    expect(array_column($points, 'usable'))->toBe(['whole', 'whole', 'part']);
});

it('goes on from another copy when a store vanishes while it is read', function (): void {
    $this->kaiseki('store-add', 'second', $this->scratch()->path.'/second', '--read-mb-s=10');
    ($this->copyAll)('second');
    $run = heldRun($this);
    (new RunCarrier(fn () => is_dir($this->near) ? rename($this->near, "{$this->near}-gone") : true))->carryOut($run);
    // The file that was open when it vanished can still be read; all others come from the second store.
    expect($run->refresh()->outcome['right'] ?? $run->failure)->toBeTrue();
    expect(Copy::query()->where('state', 'damaged')->count())->toBe(0);
    expect(TreeListing::of($this->out))->toBe(TreeListing::of($this->source));
});

it('waits for the store when no other copy is left, and goes on when it answers again', function (): void {
    $run = heldRun($this);
    (new RunCarrier(fn () => is_dir($this->near) ? rename($this->near, "{$this->near}-gone") : true))->carryOut($run);
    expect($run->refresh()->state)
        ->toBe('waiting')
        ->and($run->waits_for)
        ->toBe(['near'])
        ->and(Copy::query()->where('state', '<>', 'ok')->count())
        ->toBe(0);
    expect(glob("{$this->out}/file*") ?: [])->toBe([]);
    Queue::fake();
    (new ResumeAbandonedRuns)->handle();
    Queue::assertNotPushed(CarryOutRun::class);
    rename("{$this->near}-gone", $this->near);
    (new ResumeAbandonedRuns)->handle();
    Queue::assertPushed(CarryOutRun::class, 1);
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->outcome['right'] ?? null)
        ->toBeTrue()
        ->and(TreeListing::of($this->out))
        ->toBe(TreeListing::of($this->source));
});

/** A run that is ordered, and not carried out yet. */
function heldRun(Tests\TestCase $test): Run
{
    Queue::fake();
    $workload = Workload::query()->where('name', 'own')->sole();
    $plan = new App\Trees\Run\RestorePlan(
        [''],
        $test->out,
        Kaiseki\Core\Files\ConflictRule::Beside,
        '2026-11-01 0000',
        'Put back everything.',
    );

    return Run::query()->create([
        'workload_id' => $workload->id,
        'set_id' => (new Points($workload))->newest()?->id,
        'state' => 'queued',
        'plan' => $plan->toArray(),
    ]);
}

it('reads from the stores that are named, keeps off those to be avoided, and knows their names', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    $this->kaiseki('store-add', 'near', $this->near, '--read-mb-s=500000');
    $plan = fn (string ...$more) => $this->kaiseki('plan', 'own', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--json', ...$more);
    $stores = fn (string ...$more): array => array_values(array_unique(array_column($plan(...$more)->json()['reading_list'], 'store')));
    expect($stores())
        ->toBe(['near'])
        ->and($stores('--use=tapes'))
        ->toBe(['tapes'])
        ->and($stores('--avoid=near'))
        ->toBe(['tapes'])
        ->and($stores('--avoid=tapes/HV1'))
        ->toBe(['near']);
    expect($plan('--avoid=near', '--avoid=tapes/HV1')->code)
        ->toBe(3)
        ->and($plan('--avoid=nowhere')->code)
        ->toBe(2)
        ->and($plan('--use=tapes/HV1')->code)
        ->toBe(0);
    expect(($this->restore)('--use=tapes')->code)->toBe(0);
    expect(array_unique(array_column(Run::query()->sole()->outcome['read'], 'store')))->toBe(['tapes']);
});

it('shows what other copies cost, takes the choice, and brings sets near first', function (): void {
    ($this->tapes)();
    ($this->copyAll)('tapes');
    ($this->loseNear)();
    // One is not even listed there any more; the others are listed, and are not there.
    Copy::query()
        ->whereIn('store_id', Store::query()->where('name', 'near')->select('id'))
        ->limit(1)
        ->delete();
    $operator = $this->person(Role::Operator);
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'),
        'requester_id' => $operator->id,
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => now()->addMinute(),
        'due_at' => now()->addHour(),
    ]);
    (new FilesSaid)
        ->select([''])
        ->keepOn($request)
        ->save();
    $page = $this->actingAs($operator)->get("/requests/{$request->id}?show=how");
    $page->assertOk()->assertSee('Bring 3 sets to near first');
    $tapes = Store::query()->where('name', 'tapes')->value('id');
    $this->post("/requests/{$request->id}/copies", ['from' => [$tapes => 'avoid']])->assertSessionHasNoErrors();
    expect($request->refresh()->avoid_copies)->toBe(['tapes']);
    $this->get("/requests/{$request->id}?show=when")->assertSee('were to be avoided');
    $this->get("/requests/{$request->id}?show=how")->assertSee('tapes: as is best'); // so that it can be taken back
    $this->post("/requests/{$request->id}/copies", ['from' => [$tapes => 'best']]);
    expect($request->refresh()->avoid_copies)->toBeNull();
    $this->post("/requests/{$request->id}/copies", ['from' => [$tapes => 'burn']])->assertSessionHasErrors();
    Queue::fake();
    $this->post("/requests/{$request->id}/bring")->assertSessionHasNoErrors();
    $job = Queue::pushed(BringSetsNear::class)->sole();
    $job->handle();
    $job->handle(); // asked for twice, done once
    $this->get("/requests/{$request->id}?show=how")
        ->assertSee('3 of 3 sets brought to near')
        ->assertDontSee('to near first');
    expect(count(glob("{$this->near}/own/*.tar.gz") ?: []))->toBe(3);
    $this->post("/requests/{$request->id}/bring")->assertSessionHasErrors('bring');
});

it('learns from a run how fast a store is, and says beside what happened what was told before', function (): void {
    file_put_contents("{$this->source}/large", random_bytes(9_000_000));
    (new FileHost(dirname($this->source)))->setClock(Instant::parse('2026-10-09T02:00:00Z'));
    $this->kaiseki('protect', 'own', '--level=full', '--store=near');
    expect(($this->restore)()->code)->toBe(0);
    $measured = DB::table('rate_measurements')->get()->keyBy('what');
    expect($measured['store']->subject)
        ->toBe('near')
        ->and($measured['store']->rate)
        ->toBeGreaterThan(1.0)
        ->and($measured['write']->subject)
        ->toBe('boathouse');
    $run = Run::query()->sole();
    expect($run->estimate['likely'])->toBeGreaterThan(0.0)->and($run->estimate['most'])->toBeGreaterThan($run->estimate['least']);
    $this->actingAs($this->person(Role::Operator))
        ->get("/runs/{$run->id}")
        ->assertSee('told before: about');
    $this->get('/stores')->assertSee(round($measured['store']->rate, 1).' MB/s');
});

it('says what is wrong with an order to add a store', function (array $arguments, string $says): void {
    $arguments = array_map(fn (string $argument): string => str_replace('SCRATCH', $this->scratch()->path, $argument), $arguments);
    $answer = $this->kaiseki('store-add', ...$arguments, ...['--json']);
    expect($answer->code)->toBe(2)->and($answer->json()['error'])->toContain($says);
})->with([
    [['t', 'SCRATCH/t', '--kind=drum'], 'not a kind of store'],
    [['t'], 'Name the folder'],
    [['t', 'SCRATCH/t', '--kind=tape'], 'needs cartridges'],
    [['t', 'SCRATCH/t', '--kind=tape', '--cartridges=../x'], 'not a label'],
    [['t', '--kind=object', '--bucket=b'], 'keys of the bucket'],
]);

it('shows a workload with its histories, copies and runs, also when its source is gone', function (): void {
    ($this->restore)();
    $workload = Workload::query()->sole();
    $page = $this->actingAs($this->person(Role::Operator))->get("/workloads/{$workload->id}");
    $page->assertOk()->assertSee('Chain chart')->assertSee('near')->assertSee('told before');
    (new Symfony\Component\Process\Process(['rm', '-rf', $this->source]))->mustRun();
    $this->get("/workloads/{$workload->id}?days=3&levels=full&state=hurt")
        ->assertOk()
        ->assertSee('Its original is gone');
    $this->look();
    $this->get('/estate')->assertSee('original is gone');
    $this->actingAs($this->person(Role::Operator, ['fares']))
        ->get("/workloads/{$workload->id}")
        ->assertForbidden();
});
