<?php

declare(strict_types=1);

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Instance;
use Tests\Support\Mariadb;
use Tests\Support\Scratch;

// A restore of a database is ended with SIGKILL at seeded moments: while it loads, rolls forward, brings things beside,
// and changes places. The live schema is always one whole state or the other, and the run can be gone on with.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    Instance::control('stop', 'scheduler', 'workers:*');
});

afterEach(function (): void {
    Instance::control('start', 'scheduler', 'workers:*');
    $this->scratch->remove();
});

it('leaves one whole state or the other when it is killed, and is gone on with', function (int $seed, string $way): void {
    $random = new Randomizer(new Mt19937($seed));
    $server = new Mariadb("{$this->scratch->path}/server");
    $name = "killed-db-$seed-".bin2hex(random_bytes(3));
    $server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE people (id INT PRIMARY KEY, name VARCHAR(100))',
        'CREATE TABLE tickets (id INT PRIMARY KEY, person INT, FOREIGN KEY (person) REFERENCES people (id))',
        "INSERT INTO people SELECT seq, REPEAT('x', 80) FROM seq_1_to_3000",
        'INSERT INTO tickets SELECT seq, 1 + seq % 3000 FROM seq_1_to_6000',
        'CREATE VIEW who AS SELECT name FROM people',
        'CREATE TRIGGER bang BEFORE INSERT ON people FOR EACH ROW SET NEW.name = UPPER(NEW.name)',
    );
    $backup = $this->scratch->folder('backup');
    $server->dump("$backup/fares.sql", 'fares');
    $server->exec("INSERT INTO people VALUES (4000, 'late')");
    $then = $server->state('fares');
    $server->exec("UPDATE people SET name = 'oops'");
    $bad = $server->gtid();
    $now = $server->state('fares');
    $server->copyLogs($backup);
    $_ENV['KAISEKI_SERVER_PASSWORD'] = Mariadb::PASSWORD; // what processes are given
    expect(Instance::kaiseki('server', 'add', $name, '--host=127.0.0.1', "--port={$server->port}", '--user=keeper')->code)->toBe(0);
    unset($_ENV['KAISEKI_SERVER_PASSWORD']);
    expect(Instance::kaiseki('adopt', $backup, "--as=$name", '--kind=database')->code)->toBe(0);
    $placed = 0;
    for ($round = 0; $round < 6; $round++) {
        $process = Instance::process(
            'restore',
            $name,
            "--server=$name",
            ...$way === 'rows' ? ["--rows-of=$bad"] : ["--before=$bad", '--in-place'],
        );
        $process->start();
        usleep($random->getInt(200, 1900) * 1000);
        if ($process->isRunning()) {
            $process->signal(SIGKILL);
        }
        $process->wait();
        $state = $server->state('fares');
        expect($state === $then || $state === $now)->toBeTrue();
        $placed += $state === $then ? 1 : 0;
        $run = Instance::database()
            ->query(
                "SELECT r.id, r.state FROM runs r JOIN workloads w ON w.id = r.workload_id WHERE w.name = '$name' AND r.put_back_at IS ".
                    'NULL ORDER BY r.id DESC LIMIT 1',
            )
            ->fetch();
        if ($run === false) {
            continue; // killed before there was a run
        }
        if ($run['state'] !== 'done') {
            $resumed = Instance::kaiseki('resume', (string) $run['id'], '--json');
            expect($resumed->code)->toBe(0, $resumed->text);
        }
        expect($server->state('fares'))->toEqual($then);
        $back = Instance::kaiseki('put-back', (string) $run['id']);
        expect($back->code)
            ->toBe(0, $back->text)
            ->and($server->state('fares'))
            ->toEqual($now)
            ->and($server->one("SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name LIKE 'kaiseki%'"))
            ->toBe('0')
            ->and($server->one('SELECT COUNT(*) FROM who'))
            ->toBe('3001');
    }
    $server->stop();
})->with(deeper([[2, 'rows'], [1, 'in-place']]));
