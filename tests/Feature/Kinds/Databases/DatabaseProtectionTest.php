<?php

declare(strict_types=1);

use App\Kinds\Databases\Intake\DumpFacts;
use App\Models\BackupSet;
use App\Models\Store;
use App\Models\Workload;
use Kaiseki\Core\Database\DumpSection;
use Symfony\Component\Process\Process;
use Tests\Support\Mariadb;

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE tickets (id INT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(40), weight FLOAT)',
        'CREATE TABLE `odd ``name` (a INT)',
        'CREATE DATABASE crew',
        'CREATE TABLE crew.people (id INT PRIMARY KEY, name VARCHAR(10))',
        "INSERT INTO tickets (name) VALUES ('a'), ('b')",
        "INSERT INTO crew.people VALUES (1, 'x')",
        'CREATE PROCEDURE p() SELECT 1',
    );
    $this->server->addTo($this, 'fares-db');
    $this->store = Store::query()->create(['name' => 'ours', 'site' => 'boathouse', 'root' => $this->scratch()->folder('store')]);
});

afterEach(fn () => $this->server->stop());

it('holds that a full is one moment, counted in it, a member for each table, and loads without us', function (): void {
    $made = $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours', '--json');
    expect($made->code)->toBe(0, $made->text);
    $set = BackupSet::query()->sole();
    $facts = DumpFacts::ofSet($set);
    expect($facts->counted['fares']['tickets']->rows)
        ->toBe(2)
        ->and($facts->counted['crew']['people']->checksum)
        ->toBe($this->server->rows('CHECKSUM TABLE crew.people')[0]['Checksum'])
        ->and($set->consistency)
        ->toBe('application');
    $file = "{$this->store->root}/fares-db/{$set->name}.sql.gz";
    (new Process(['gunzip', '--test', $file]))->mustRun();
    $plain = (new Process(['zcat', $file]))->mustRun()->getOutput();
    foreach (DumpFacts::sections($set) as $section) {
        $own = $section->bytes === 0 ? '' : (string) gzdecode(substr((string) file_get_contents($file), (int) $section->member));
        expect($own)->toBe(substr($plain, $section->start, $section->bytes));
    }
    expect(
        array_filter(
            DumpFacts::sections($set),
            fn (DumpSection $section): bool => $section->kind === DumpSection::TABLE && $section->name === 'odd `name',
        ),
    )->not->toBe([]);
    $this->server->exec('DROP DATABASE crew', 'DROP DATABASE fares');
    (new Process(
        ['mariadb', '--no-defaults', "--socket={$this->scratch()->path}/server/s.sock", '--user=root'],
        null,
        null,
        $plain,
    ))->mustRun();
    expect($this->server->one('SELECT COUNT(*) FROM fares.tickets'))->toBe('2');
});

it('brings back any commit by fulls and logs, on another server too', function (): void {
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours');
    $this->server->exec("INSERT INTO fares.tickets (name, weight) VALUES ('c', 3.14159274)", 'DELETE FROM crew.people');
    $state = $this->server->state('fares');
    $gtid = $this->server->gtid();
    $this->server->exec('DELETE FROM fares.tickets');
    $log = $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours', '--json');
    expect($log->code)->toBe(0, $log->text);
    expect(BackupSet::query()->where('level', 'log')->orderByDesc('id')->first()->base)->not->toBeNull();
    $other = new Mariadb($this->scratch()->path.'/other', 5);
    $other->addTo($this, 'spare');
    $answer = $this->kaiseki('restore', 'fares-db', "--through=$gtid", '--server=spare', '--in-place', '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($other->state('fares'))
        ->toEqual($state)
        ->and($other->state('crew'))
        ->toEqual(['people' => []])
        ->and($other->one('SELECT COUNT(*) FROM information_schema.routines WHERE routine_schema = "fares"'))
        ->toBe('1');
    expect(array_column($answer->json()['checks'], 'check'))
        ->toContain('rows and checksum of every table as they were counted when the dump was made')
        ->toContain('rows of every table as the dump and the row events after it count them');
    $other->stop();
    expect($this->kaiseki('protect', 'fares-db', '--level=incr', '--store=ours')->code)->toBe(2);
});

it('holds that a dump alone goes straight to its place, and one table of it without the others', function (): void {
    $state = $this->server->state('fares');
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours');
    $facts = DumpFacts::ofSet(BackupSet::query()->sole());
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--position={$facts->logFile}:{$facts->logPosition}",
        '--source-schema=fares',
        '--schema=copy',
        '--server=fares-db',
        '--json',
    );
    expect($answer->code)->toBe(3, $answer->text); // no log is here yet: a position in it is not known
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours');
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--position={$facts->logFile}:{$facts->logPosition}",
        '--source-schema=fares',
        '--schema=copy',
        '--server=fares-db',
        '--json',
    );
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('copy'))->toEqual($state);
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--position={$facts->logFile}:{$facts->logPosition}",
        '--tables=fares.tickets',
        '--schema=one',
        '--server=fares-db',
        '--json',
    );
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($this->server->state('one'))
        ->toEqual(['tickets' => $state['tickets']]);
});

it('holds that what was put in place begins a new history: nothing is rolled over it', function (): void {
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours');
    $this->server->exec("INSERT INTO fares.tickets (name) VALUES ('c')");
    $gtid = $this->server->gtid();
    $this->server->exec('DELETE FROM fares.tickets');
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours');
    expect(
        $this->kaiseki('restore', 'fares-db', "--through=$gtid", '--source-schema=fares', '--server=fares-db', '--in-place')->code,
    )->toBe(0);
    $this->server->exec("INSERT INTO fares.tickets (name) VALUES ('after')");
    $late = $this->server->gtid();
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours');
    $blocked = $this->kaiseki(
        'restore',
        'fares-db',
        "--through=$late",
        '--source-schema=fares',
        '--server=fares-db',
        '--schema=x',
        '--json',
    );
    expect($blocked->code)->toBe(3)->and($blocked->json()['error'])->toContain('put an earlier state in place');
    // Sets of one second have one name.
    for ($made = BackupSet::query()->where('level', 'full')->max('captured_at'); gmdate('Y-m-d H:i:s') <= $made;) {
        usleep(50_000);
    }
    $full = $this->kaiseki('protect', 'fares-db', '--level=full', '--store=ours', '--json');
    expect($full->code)
        ->toBe(0, $full->text)
        ->and(Workload::query()->sole()->histories()->count())
        ->toBe(2);
    $this->server->exec("INSERT INTO fares.tickets (name) VALUES ('more')");
    $more = $this->server->gtid();
    $state = $this->server->state('fares');
    sleep(1);
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours');
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--through=$more",
        '--source-schema=fares',
        '--server=fares-db',
        '--schema=x',
        '--json',
    );
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('x'))->toEqual($state);
});

it('holds that the catalog of dumps and logs comes back from the store, and from an export', function (): void {
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours');
    $this->server->exec("INSERT INTO fares.tickets (name) VALUES ('c')");
    $gtid = $this->server->gtid();
    $state = $this->server->state('fares');
    $this->kaiseki('protect', 'fares-db', '--level=log', '--store=ours');
    $before = BackupSet::query()
        ->orderBy('name')
        ->get(['name', 'level', 'captured_at', 'entries', 'facts'])
        ->toArray();
    $sections = array_map(
        fn (DumpSection $section): array => $section->toArray(),
        DumpFacts::sections(BackupSet::query()->where('level', 'full')->sole()),
    );
    BackupSet::query()->update(['base_id' => null]);
    BackupSet::query()->each(fn (BackupSet $set) => $set->delete());
    expect($this->kaiseki('catalog', 'rebuild', '--store=ours')->code)->toBe(0);
    expect(
        BackupSet::query()
            ->orderBy('name')
            ->get(['name', 'level', 'captured_at', 'entries', 'facts'])
            ->toArray(),
    )->toEqual($before);
    expect(
        array_map(
            fn (DumpSection $section): array => $section->toArray(),
            DumpFacts::sections(BackupSet::query()->where('level', 'full')->sole()),
        ),
    )->toEqual($sections);
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--through=$gtid",
        '--source-schema=fares',
        '--server=fares-db',
        '--schema=x',
        '--json',
    );
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('x'))->toEqual($state);
    $export = $this->scratch()->path.'/export';
    expect($this->kaiseki('catalog', 'export', $export)->code)->toBe(0);
    expect((string) file_get_contents("$export/workloads.jsonl.gz"))
        ->not->toBe('')
        ->and(file_exists("$export/database_servers.jsonl.gz"))
        ->toBeFalse();
});

it('has logs and fulls made by a schedule, and offers these on the page', function (): void {
    $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours');
    expect($this->kaiseki('schedule', 'fares-db', '--cron=* * * * *=log', '--store=ours', '--zone=UTC')->code)->toBe(0);
    config(['queue.default' => 'sync']);
    $this->travel(2)->minutes();
    (new App\Jobs\MakeSetsBySchedule)->handle();
    expect(App\Models\Making::query()->latest('id')->firstOrFail()->state)
        ->toBe('done', (string) App\Models\Making::query()->latest('id')->firstOrFail()->failure)
        ->and(BackupSet::query()->where('level', 'log')->exists())
        ->toBeTrue();
    $page = $this->actingAs($this->person(App\Models\Role::Operator))
        ->get('/workloads/'.Workload::query()->sole()->id.'/care')
        ->assertOk();
    $page->assertSee('value="log"', false)->assertDontSee('value="diff"', false);
});

/** A statement at work in a session of its own; no lock of all tables gets past it until it ends. */
function blocking(Mariadb $server, string $socket, string $sql): Process
{
    $client = ['mariadb', '--no-defaults', "--socket=$socket", '--user=root', '--delimiter=//', '--execute', $sql];
    $process = new Process($client, null, null, null, null);
    $process->start();
    $others = 'SELECT COUNT(*) FROM information_schema.processlist WHERE command = "Query" AND id <> CONNECTION_ID()';
    while ($process->isRunning() && $server->one($others) === '0') {
        usleep(20_000);
    }

    return $process;
}

it('waits for a busy server, and counts what its tables held all the same', function (): void {
    $this->server->exec('CREATE TABLE crew.busy (a INT)', 'INSERT INTO crew.busy VALUES (1)');
    $busy = blocking($this->server, $this->scratch()->path.'/server/s.sock', 'UPDATE crew.busy SET a = a + SLEEP(5)');
    $made = $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours', '--json');
    $busy->wait();
    $set = BackupSet::query()->sole();
    expect($made->code)
        ->toBe(0, $made->text)
        ->and(array_keys(DumpFacts::ofSet($set)->counted))
        ->toEqualCanonicalizing(['crew', 'fares'])
        ->and(implode(' ', $set->remarks))
        ->not->toContain('not counted');
});

it('says of a full that it could not count, and why', function (): void {
    $this->server->exec('CREATE TABLE crew.busy (a INT)', 'INSERT INTO crew.busy VALUES (1)');
    $socket = $this->scratch()->path.'/server/s.sock';
    $busy = blocking($this->server, $socket, 'UPDATE crew.busy SET a = a + SLEEP(600)');
    $writers = [];
    foreach (['one', 'two', 'three'] as $name) {
        $this->server->exec("CREATE TABLE fares.$name (a INT)");
        $writers[] = blocking($this->server, $socket, "BEGIN NOT ATOMIC LOOP INSERT INTO fares.$name VALUES (1); END LOOP; END");
    }
    try {
        $made = $this->kaiseki('protect', 'fares-db', '--server=fares-db', '--level=full', '--store=ours', '--json');
    } finally {
        array_map(fn (Process $process) => $process->stop(0), [$busy, ...$writers]);
    }
    $set = BackupSet::query()->sole();
    expect($made->code)
        ->toBe(0, $made->text)
        ->and(DumpFacts::ofSet($set)->counted)
        ->toBe([])
        ->and(implode(' ', $set->remarks))
        ->toContain('was not counted when it was made: the server was too busy to stand still for a moment (4 attempts)');
});
