<?php

declare(strict_types=1);

use App\Care\Holds;
use App\Care\StandingOf;
use App\Kinds\Databases\Order\DatabaseSaid;
use App\Models\BackupSet;
use App\Models\Hold;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Objective\Concern;
use Symfony\Component\Process\Process;
use Tests\Support\Desk;
use Tests\Support\Mariadb;

// Databases have at the desk what files have: their pages, schedules, holds, promises, choice of copies.

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE tickets (id INT PRIMARY KEY, price INT)',
        'INSERT INTO tickets VALUES (1, 8), (2, 9)',
    );
    $this->server->addTo($this, 'fares-db');
    $this->kaiseki('store-add', 'near', $this->near = $this->scratch()->folder('near'));
    $this->make = function (string $level, string ...$more): string {
        // A full has its second in its name.
        while ($level === 'full' && glob("$this->near/fares-db/*.full.".gmdate('Ymd\THis\Z').'.sql.gz') !== []) {
            time_sleep_until(floor(microtime(true)) + 1);
        }
        $made = $this->kaiseki('protect', 'fares-db', '--server=fares-db', "--level=$level", '--store=near', '--json', ...$more);
        expect($made->code)->toBe(0, $made->text);

        return $made->json()['set'];
    };
    $this->full = ($this->make)('full');
    $this->server->exec('UPDATE tickets SET price = 0');
    $this->gtid = $this->server->gtid();
    $this->log = ($this->make)('log');
    $this->workload = Workload::query()->where('name', 'fares-db')->firstOrFail();
    $this->operator = $this->person(Role::Operator);
    $this->ask = function (array $choice, array $more = []): RecoveryRequest {
        $request = RecoveryRequest::query()
            ->create(
                $more + [
                    'workload_id' => $this->workload->id,
                    'requester_id' => $this->operator->id,
                    'summary' => 'Prices are gone',
                    'reason' => 'Needed',
                    'wanted_at' => now()->addMinute(),
                    'due_at' => now()->addHour(),
                ],
            )
            ->refresh();
        (new DatabaseSaid($choice))->keepOn($request)->save();

        return $request;
    };
});

afterEach(fn () => $this->server->stop());

it('says of a dump and of a log what they are and give', function (): void {
    $id = fn (string $name): int => BackupSet::query()->where('name', $name)->value('id');
    $this->actingAs($this->operator)
        ->get("/sets/{$id($this->full)}")
        ->assertOk()
        ->assertSee('this is a dump of a database')
        ->assertSee('Whole schemas')
        ->assertSee('fares; 1 table')
        ->assertDontSee('set of files');
    $this->get("/sets/{$id($this->log)}")
        ->assertOk()
        ->assertSee('this is a binary log of a database')
        ->assertSee('Any moment within it')
        ->assertDontSee('set of files');
});

it('offers and takes only the levels that there are', function (): void {
    $care = "/workloads/{$this->workload->id}/care";
    $this->actingAs($this->operator)->get($care)->assertSee('full or log')->assertDontSee('=incr');
    $store = App\Models\Store::query()->where('name', 'near')->value('id');
    $form = ['times' => '30 1 * * *=incr', 'store' => $store, 'zone' => 'UTC', 'on' => '1'];
    $this->from($care)
        ->post("/workloads/{$this->workload->id}/schedule", $form)
        ->assertSessionHasErrors(['times' => 'No set of the level "incr" can be made of fares-db. There are: log, full.']);
    $this->post("/workloads/{$this->workload->id}/schedule", ['times' => '30 1 * * *=log'] + $form)->assertSessionHasNoErrors();
    expect($this->kaiseki('schedule', 'fares-db', '--cron=0 2 * * *=diff', '--store=near')->code)->toBe(2);
});

it('holds for an open request what its run would read', function (): void {
    $request = ($this->ask)(['through' => $this->gtid, 'schema' => 'then']);
    ($this->make)('full'); // which it does not read
    (new Holds)->followRequests($this->workload);
    $held = Hold::query()
        ->where('request_id', $request->id)
        ->whereNull('lifted_at')
        ->with('set')
        ->get()
        ->pluck('set.name')
        ->sort()
        ->values()
        ->all();
    $expected = [$this->full, $this->log];
    sort($expected);
    expect($held)->toBe($expected);
});

it('says that nothing makes sets of it, and how long the last whole restore took', function (): void {
    $concerns = fn (): array => array_map(
        fn (Concern $one): string => $one->what,
        (new StandingOf($this->workload, new Points($this->workload)))->standing->concerns(),
    );
    expect($concerns())->toContain('Nothing makes sets of it by itself.');
    $this->kaiseki('schedule', 'fares-db', '--cron=0 2 * * *=full', '--store=near');
    expect($concerns())->not->toContain('Nothing makes sets of it by itself.');
    expect($this->kaiseki('restore', 'fares-db', "--before=$this->gtid", '--schema=then')->code)->toBe(0);
    $standing = (new StandingOf($this->workload, new Points($this->workload)))->standing;
    expect($standing->lastRestoreSeconds)->toBe(Run::query()->sole()->seconds());
    $this->actingAs($this->operator)->get('/estate')->assertSee('last took');
});

it('has no routes of files, and files have none of it', function (): void {
    $request = ($this->ask)(['before' => $this->gtid]);
    $this->actingAs($this->operator)
        ->post("/requests/{$request->id}/selection", ['path' => 'x'])
        ->assertNotFound();
    $this->post("/requests/{$request->id}/destination", ['destination' => 'own-place', 'conflict' => 'replace'])->assertNotFound();
    $request->update(['workload_id' => null]);
    $this->post("/requests/{$request->id}/database", ['set' => 'question', 'query' => 'SELECT 1'])->assertNotFound();
});

it('comes back from the media with the histories that it had', function (): void {
    $second = ($this->make)('full', '--new-history');
    $this->server->exec('UPDATE tickets SET price = 3');
    $log = ($this->make)('log');
    $told = fn (): array => BackupSet::query()
        ->join('histories', 'histories.id', 'sets.history_id')
        ->orderBy('sets.name')
        ->selectRaw('sets.name AS set_name, histories.name AS history')
        ->pluck('history', 'set_name')
        ->all();
    $before = $told();
    expect($before[$second])->toBe('2')->and($before[$log])->toBe('2')->and($before[$this->full])->toBe('1');
    DB::table('database_originals')->delete();
    foreach (['copies', 'sets', 'histories', 'workloads'] as $table) {
        DB::statement('SET foreign_key_checks = 0');
        DB::table($table)->delete();
        DB::statement('SET foreign_key_checks = 1');
    }
    expect($this->kaiseki('catalog', 'rebuild', '--store=near')->code)->toBe(0)->and($told())->toBe($before);
});

it('says what another run is at work in', function (): void {
    $other = new Process([
        PHP_BINARY,
        '-r',
        '$pdo = new PDO("mysql:unix_socket=".$argv[1].";dbname=kaiseki", posix_getpwuid(posix_geteuid())["name"], ""); '.
            '$pdo->query("SELECT GET_LOCK(\"$argv[2]\", 5)"); echo "held"; sleep(6000);',
        '--',
        App\Instance::path('sql/db.sock'),
        'kaiseki-'.md5(DB::connection()->getDatabaseName().'server:database fares-db then'),
    ]);
    $other->setTimeout(null)->start();
    saysSoon($other, 'held');
    $answer = $this->kaiseki('restore', 'fares-db', "--before=$this->gtid", '--schema=then', '--json');
    $other->stop(0, SIGKILL);
    expect($answer->code)
        ->toBe(4)
        ->and($answer->json()['error'])
        ->toStartWith('Another run is at work in the schema then on fares-db;')
        ->not->toContain('folder');
});

it('reads the moment as it was said, and tells it in the zone of who asks', function (): void {
    $requester = User::query()->create([
        'name' => 'Aiko',
        'email' => 'aiko@sorrelsound.example',
        'role' => Role::Requester,
        'password' => 'tide-table-9',
        'zone' => 'Asia/Tokyo',
    ]);
    $request = ($this->ask)(['before' => $this->gtid], ['requester_id' => $requester->id]);
    $request->wantAsSaid('Thursday evening', 'Asia/Tokyo');
    $request->save();
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}?show=when")
        ->assertSee('For Aiko that is')
        ->assertSee('Thursday evening');
});

it('speaks in the zone of who looks', function (): void {
    $request = ($this->ask)(['at' => '2030-01-01T10:00:00Z', 'schema' => 'then']);
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}?show=run")
        ->assertSee('as it was at 2030-01-01T11:00:00+01:00 into then');
});

it('names the second person in its proof, and tells the estimate beside what it took', function (): void {
    $this->workload->update(['needs_approval' => true]);
    $request = ($this->ask)(['rows-of' => $this->gtid]);
    $url = "/requests/{$request->id}";
    $page = (string) $this->actingAs($this->operator)
        ->get("$url?show=run")
        ->getContent();
    preg_match('/name="order" value="([0-9a-f]{64})"/', $page, $order);
    $this->post("$url/run", ['order' => $order[1]]);
    $approver = $this->person(Role::Approver);
    $this->actingAs($approver)
        ->post('/approvals/'.$request->approvals()->value('id'), Desk::yes('/approvals/'.$request->approvals()->value('id')))
        ->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    App\Kinds\Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)->toBe('done', (string) $run->failure);
    $this->actingAs($this->operator)
        ->get("/runs/{$run->id}")
        ->assertSee('told before: about')
        ->assertSeeInOrder(['Approved by', $approver->name]);
    $this->get("/runs/{$run->id}/page")->assertSee($approver->name);
});

it('says that the order is another now than was asked about', function (): void {
    $this->workload->update(['needs_approval' => true]);
    $request = ($this->ask)(['rows-of' => $this->gtid]);
    $url = "/requests/{$request->id}?show=run";
    preg_match('/name="order" value="([0-9a-f]{64})"/', (string) $this->actingAs($this->operator)->get($url)->getContent(), $order);
    $this->post("/requests/{$request->id}/run", ['order' => $order[1]]);
    $this->get($url)->assertDontSee('is another now');
    (new DatabaseSaid(['reverse' => $this->gtid]))->keepOn($request->refresh())->save();
    $this->get($url)->assertSee('is another now: ask again');
});

it('reads from the copies that are chosen, and not from those that are to be avoided', function (): void {
    $this->kaiseki('store-add', 'far', $far = $this->scratch()->folder('far'), '--site=hill', '--lane-mb-s=1');
    $this->kaiseki('copy', 'fares-db', $this->full, '--to=far');
    $this->kaiseki('copy', 'fares-db', $this->log, '--to=far');
    $request = ($this->ask)(['through' => $this->gtid, 'schema' => 'then']);
    $how = "/requests/{$request->id}?show=how";
    $this->actingAs($this->operator)->get($how)->assertSee('from near')->assertSee('Where it has a copy');
    $store = fn (string $name): int => App\Models\Store::query()->where('name', $name)->value('id');
    $this->post("/requests/{$request->id}/copies", ['from' => [$store('far') => 'use']])->assertSessionHasNoErrors();
    $this->get($how)->assertSee('from far')->assertSee('settled by hand');
    $avoided = $this->kaiseki('restore', 'fares-db', "--through=$this->gtid", '--schema=two', '--avoid=far', '--avoid=near', '--json');
    expect($avoided->code)->toBe(3)->and($avoided->json()['error'])->toContain('to be avoided');
    rename("$this->near/fares-db", "$this->near/gone");
    expect($this->kaiseki('restore', 'fares-db', "--through=$this->gtid", '--schema=one', '--use=far')->code)
        ->toBe(0)
        ->and($this->kaiseki('restore', 'fares-db', "--through=$this->gtid", '--schema=two', '--avoid=far', '--json')->json()['error'])
        ->toContain('was passed over: there is no file')
        ->and($this->kaiseki('restore', 'fares-db', "--through=$this->gtid", '--schema=three', '--avoid=nowhere')->code)
        ->toBe(2);
});

it('passes over a dump that is in doubt, unless that is not demanded', function (): void {
    $second = ($this->make)('full');
    ($this->make)('log');
    $this->kaiseki('judge', 'fares-db', $second, 'doubt', '--reason=The disk was failing then.');
    $plan = fn (string ...$more): array => $this->kaiseki(
        'restore',
        'fares-db',
        '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60),
        '--schema=then',
        '--dry-run',
        '--json',
        ...$more,
    )->json();
    expect($plan()['point'])
        ->toBe($this->full)
        ->and(implode(' ', $plan()['remarks']))
        ->toContain("The dump $second was passed over: it is in doubt")
        ->and($plan('--demand=none')['point'])
        ->toBe($second);
});

it('waits for a cartridge that is on the shelf, and goes on when it has come', function (): void {
    $this->kaiseki(
        'store-add',
        'tapes',
        $this->scratch()->path.'/tapes',
        '--kind=tape',
        '--cartridges=HV1',
        '--slots=1',
        '--capacity-mb=10',
    );
    $this->kaiseki('copy', 'fares-db', $this->full, '--to=tapes');
    unlink("$this->near/fares-db/$this->full.sql.gz");
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--out');
    $request = ($this->ask)(['through' => $this->gtid, 'schema' => 'then']);
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}?show=how")
        ->assertSee('To fetch from the shelf: HV1');
    $waiting = $this->kaiseki('restore', 'fares-db', "--through=$this->gtid", '--schema=then', '--no-wait', '--json');
    expect($waiting->code)
        ->toBe(3)
        ->and($waiting->json()['waits_for'])
        ->toBe(['tapes/HV1']);
    $this->kaiseki('cartridge', 'tapes', 'HV1', '--arrived');
    $run = Run::query()->sole();
    expect($run->state)->toBe('queued');
    App\Kinds\Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and($run->outcome['right'])
        ->toBeTrue()
        ->and($this->server->rows('SELECT price FROM `then`.tickets'))
        ->toBe([['price' => '0'], ['price' => '0']]);
});
