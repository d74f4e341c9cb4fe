<?php

declare(strict_types=1);

use Tests\Support\Mariadb;

/** A small ferry line's tables, with what makes restores hard: keys between tables, a trigger, a view, names that are qualified. */
function fares(Mariadb $server): void
{
    $server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE sailings (id INT UNSIGNED PRIMARY KEY, route VARCHAR(40) NOT NULL, at DATETIME(3), sold INT NOT NULL DEFAULT 0, '.
            'UNIQUE (route, at)) ENGINE=InnoDB',
        'CREATE TABLE tickets (id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, sailing INT UNSIGNED NOT NULL, name VARCHAR(80), price '.
            'DECIMAL(9,2), note TEXT, half DECIMAL(9,2) AS (price / 2) PERSISTENT, twice DECIMAL(10,2) AS (price * 2) VIRTUAL, weight '.
                'FLOAT, FOREIGN KEY (sailing) REFERENCES sailings (id) ON DELETE CASCADE) ENGINE=InnoDB',
        'CREATE TABLE notes (at DATETIME, what VARCHAR(100))',
        'CREATE SEQUENCE counter START WITH 100',
        'CREATE TABLE numbered (id INT NOT NULL DEFAULT (NEXT VALUE FOR fares.counter) PRIMARY KEY, t VARCHAR(20))',
        'CREATE TRIGGER sold AFTER INSERT ON tickets FOR EACH ROW UPDATE fares.sailings SET sold = sold + 1 WHERE id = NEW.sailing',
        'CREATE VIEW upcoming AS SELECT t.name, s.route FROM fares.tickets t JOIN fares.sailings s ON s.id = t.sailing',
        'CREATE DEFINER=`gone`@`nowhere` PROCEDURE refund(n INT) BEGIN /* fares.tickets */ DELETE FROM fares.tickets WHERE id = n; '.
            "SELECT 'fares.tickets'; END",
        'CREATE EVENT sweep ON SCHEDULE EVERY 1 DAY DO DELETE FROM fares.notes',
        "INSERT INTO sailings (id, route, at) VALUES (1, 'North', '2026-10-01 10:00'), (2, 'South', '2026-10-01 11:00'), (3, 'Zoë''s ".
            "Reach 🚢', '2026-10-02 09:30:00.125')",
        "INSERT INTO tickets (sailing, name, price, note, weight) VALUES (1, 'Ann', 12.50, NULL, 1.1), (1, 'Bo', 8, 'two\nlines', 0.1), ".
            "(2, 'Cy', 20, '', 3.14159274), (3, 'Di', 7.25, 'x', 1e10)",
        "INSERT INTO notes VALUES ('2026-10-01', 'a'), ('2026-10-01', 'a')",
        "INSERT INTO numbered (t) VALUES ('one'), ('two')",
    );
}

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    fares($this->server);
    $this->backup = $this->scratch()->folder('backup');
    $this->server->addTo($this, 'fares-db');
});

afterEach(fn () => $this->server->stop());

/** @return array{string, array<string, mixed>} GTID, and the state right before it */
function mistake(Mariadb $server, string $sql): array
{
    $before = $server->state('fares');
    $server->exec($sql);

    return [$server->gtid(), $before];
}

it('holds that a dump and its logs are adopted, and listed as what was committed', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec(
        'UPDATE tickets SET price = price + 1 WHERE sailing = 1; DELETE FROM notes; TRUNCATE TABLE numbered; CREATE USER x@y IDENTIFIED '.
            "BY 'secret'",
    );
    $this->server->copyLogs($this->backup);
    $adopted = $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database', '--json');
    expect($adopted->code)->toBe(0, $adopted->text);
    $list = $this->kaiseki('transactions', 'fares-db', '--table=tickets', '--json')->json()['transactions'];
    $last = end($list);
    expect($last['gtid'])
        ->toMatch('/^0-2-\d+$/')
        ->and($last['tables'])
        ->toContain(['schema' => 'fares', 'table' => 'tickets', 'inserted' => 0, 'updated' => 2, 'deleted' => 0])
        ->and($last['statement'])
        ->toBe('UPDATE tickets SET price = price + 1 WHERE sailing = 1')
        ->and($last['ddl'])
        ->toBeFalse();
    expect($this->kaiseki('transactions', 'fares-db')->text)->not->toContain('secret');
});

it('brings a schema back beside, to before a mistake, under another name, with nothing in it pointing at the live one', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec(
        "INSERT INTO tickets (sailing, name, price) VALUES (2, 'Eve', 3)",
        'ALTER TABLE sailings ADD pier VARCHAR(10)',
        "UPDATE sailings SET pier = 'Nine'",
    );
    [$gtid, $before] = mistake($this->server, 'UPDATE tickets SET price = 0');
    $this->server->exec("INSERT INTO tickets (sailing, name, price) VALUES (1, 'After', 1)");
    $now = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        "--before=$gtid",
        '--server=fares-db',
        '--schema=fares_then',
        '--query=SELECT COUNT(*) AS n FROM tickets',
        '--json',
    );
    expect($answer->code)->toBe(0, $answer->text);
    expect($this->server->state('fares_then'))->toEqual($before)->and($this->server->state('fares'))->toEqual($now);
    foreach (
        [
            'SHOW CREATE VIEW fares_then.upcoming' => 'Create View',
            'SHOW CREATE TRIGGER fares_then.sold' => 'SQL Original Statement',
            'SHOW CREATE EVENT fares_then.sweep' => 'Create Event',
            'SHOW CREATE TABLE fares_then.numbered' => 'Create Table',
        ] as $show => $column
    ) {
        expect($this->server->rows($show)[0][$column])->not->toMatch('/`?fares`?\s*\./');
    }
    $procedure = $this->server->rows('SHOW CREATE PROCEDURE fares_then.refund')[0]['Create Procedure'];
    expect($procedure)->toContain("SELECT 'fares.tickets'")->toContain('DELETE FROM `fares_then`.tickets')->not->toContain('gone');
    expect($this->server->one("SELECT status FROM information_schema.events WHERE event_schema = 'fares_then'"))->toBe('DISABLED');
    expect($answer->json()['query']['after']['rows'][0]['n'])->toBe('5');
});

it('has a schema change places with what it was, and back', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    [$gtid, $before] = mistake($this->server, 'DELETE FROM tickets');
    $this->server->exec("INSERT INTO tickets (sailing, name, price) VALUES (1, 'After', 1)", 'CREATE TABLE later (id INT)');
    $now = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki('restore', 'fares-db', "--before=$gtid", '--server=fares-db', '--in-place', '--json');
    expect($answer->code)->toBe(0, $answer->text);
    expect($this->server->state('fares'))->toEqual($before);
    $this->server->exec("INSERT INTO fares.tickets (sailing, name, price) VALUES (3, 'New', 1)");
    expect($this->server->one('SELECT COUNT(*) FROM fares.upcoming'))->toBe('5');
    $back = $this->kaiseki('put-back', (string) $answer->json()['run'], '--json');
    expect($back->code)->toBe(0, $back->text);
    expect($this->server->state('fares'))->toEqual($now);
    $this->server->exec("INSERT INTO fares.tickets (sailing, name, price) VALUES (3, 'New', 1)");
    expect(
        $this->server->one("SELECT GROUP_CONCAT(schema_name) FROM information_schema.schemata WHERE schema_name LIKE 'kaiseki%'"),
    )->toBeNull();
});

it('holds that tables alone come back in place, and keys of others point at them again', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    [$gtid, $before] = mistake($this->server, "UPDATE sailings SET route = CONCAT('x', id)");
    $this->server->exec("INSERT INTO tickets (sailing, name, price) VALUES (1, 'After', 1)");
    $now = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki('restore', 'fares-db', "--before=$gtid", '--server=fares-db', '--tables=sailings', '--json');
    expect($answer->code)->toBe(0, $answer->text);
    expect($this->server->state('fares'))->toEqual(['sailings' => $before['sailings']] + $now);
    expect(fn () => $this->server->exec("INSERT INTO fares.tickets (sailing, name, price) VALUES (99, 'Nowhere', 1)"))->toThrow(
        PDOException::class,
    );
    expect($this->kaiseki('put-back', (string) $answer->json()['run'])->code)->toBe(0);
    expect($this->server->state('fares'))->toEqual($now);
});

it('brings rows that a transaction touched back by key, and leaves those that somebody changed since', function (string $way): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    [$gtid, $before] = mistake(
        $this->server,
        "BEGIN; UPDATE tickets SET price = 0, name = 'gone'; DELETE FROM tickets WHERE sailing = 1; UPDATE tickets SET note = 'twice' ".
            'WHERE id = 3; COMMIT',
    );
    $this->server->exec(
        'UPDATE tickets SET price = 99 WHERE id = 4',
        "INSERT INTO tickets (id, sailing, name, price) VALUES (1, 2, 'taken', 5)",
        "INSERT INTO tickets (sailing, name, price) VALUES (2, 'After', 1)",
    );
    $now = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $dry = $this->kaiseki('restore', 'fares-db', "--$way=$gtid", '--server=fares-db', '--dry-run', '--json');
    expect($dry->code)->toBe(0, $dry->text)->and($this->server->state('fares'))->toEqual($now);
    $answer = $this->kaiseki('restore', 'fares-db', "--$way=$gtid", '--server=fares-db', '--json');
    expect($answer->code)->toBe(4, $answer->text)->and($answer->json()['conflicts'])->toHaveCount(2);
    $byId = fn (array $state): array => array_column($state['tickets'], null, 'id');
    [$is, $was, $live] = [$byId($this->server->state('fares')), $byId($before), $byId($now)];
    expect($is[2])
        ->toEqual($was[2])
        ->and($is[3])
        ->toEqual($was[3])
        ->and($is[1])
        ->toEqual($live[1])
        ->and($is[4])
        ->toEqual($live[4])
        ->and(count($is))
        ->toBe(5);
    $back = $this->kaiseki('put-back', (string) $answer->json()['run']);
    expect($back->code)->toBe(0, $back->text)->and($byId($this->server->state('fares')))->toEqual($live);
})->with(['rows-of', 'reverse']);

it('holds that what CASCADE removed comes back with the rows, though no log shows it', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    [$gtid, $before] = mistake($this->server, 'DELETE FROM sailings WHERE id < 3');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki('restore', 'fares-db', "--rows-of=$gtid", '--server=fares-db', '--json');
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('fares'))->toEqual($before);
});

it('rolls forward everything but one transaction', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec('DELETE FROM notes');
    $bad = $this->server->gtid();
    $this->server->exec("INSERT INTO notes VALUES ('2026-11-01', 'later')", 'UPDATE tickets SET price = 5 WHERE id = 2');
    $now = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki('restore', 'fares-db', "--skip=$bad", '--server=fares-db', '--schema=without', '--json');
    expect($answer->code)->toBe(0, $answer->text);
    $is = $this->server->state('without');
    expect($is['notes'])->toHaveCount(3)->and($is['tickets'])->toEqual($now['tickets']);
});

it('holds that a table alone is rolled forward with those it points at, so that CASCADE is not missed', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec('DELETE FROM sailings WHERE id = 1', "INSERT INTO tickets (sailing, name, price) VALUES (2, 'Eve', 3)");
    $gtid = $this->server->gtid();
    $state = $this->server->state('fares');
    $this->server->exec('DELETE FROM tickets');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $answer = $this->kaiseki('restore', 'fares-db', "--through=$gtid", '--server=fares-db', '--tables=tickets', '--schema=one', '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($this->server->state('one'))
        ->toEqual(['tickets' => $state['tickets']]);
    $now = $this->server->state('fares');
    $place = $this->kaiseki('restore', 'fares-db', "--through=$gtid", '--server=fares-db', '--tables=tickets', '--json');
    expect($place->code)->toBe(0, $place->text)->and($this->server->state('fares'))->toEqual($state);
    expect(fn () => $this->server->exec("INSERT INTO fares.tickets (sailing, name) VALUES (77, 'x')"))->toThrow(PDOException::class);
    $back = $this->kaiseki('put-back', (string) $place->json()['run']);
    expect($back->code)->toBe(0, $back->text)->and($this->server->state('fares'))->toEqual($now);
    expect(fn () => $this->server->exec("INSERT INTO fares.tickets (sailing, name) VALUES (77, 'x')"))->toThrow(PDOException::class);
});

it('holds that the hand sheet brings the same state into an empty server, without us', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec(
        'UPDATE tickets SET price = 11 WHERE id = 1',
        'FLUSH BINARY LOGS',
        'DELETE FROM notes',
        'TRUNCATE numbered',
        'ALTER TABLE notes ADD who INT',
    );
    $state = $this->server->state('fares');
    $this->server->copyLogs($this->backup);
    (new Symfony\Component\Process\Process(['gzip', ...glob("{$this->backup}/*")]))->mustRun();
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $sheet = "{$this->scratch()->path}/sheet.sh";
    expect($this->kaiseki('hand-sheet', 'fares-db', "--out=$sheet")->code)->toBe(0);
    $empty = new Mariadb($this->scratch()->path.'/empty', 8);
    $run = fn (): Symfony\Component\Process\Process => new Symfony\Component\Process\Process(
        ['sh', $sheet, '--no-defaults', "--socket={$this->scratch()->path}/empty/s.sock", '--user=root'],
        null,
        null,
        null,
        120,
    );
    $run()->mustRun();
    expect($empty->state('fares'))->toEqual($state)->and($run()->run())->toBe(2); // it is not empty any more
    $empty->stop();
});

it('holds that dumps of single schemas, made at different moments, come together at one', function (): void {
    $this->server->exec(
        'CREATE DATABASE crew',
        'CREATE TABLE crew.people (id INT PRIMARY KEY, name VARCHAR(20))',
        "INSERT INTO crew.people VALUES (1, 'Ann')",
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec(
        "INSERT INTO crew.people VALUES (2, 'Bo')",
        'FLUSH BINARY LOGS',
        "UPDATE fares.tickets SET name = 'x' WHERE id = 1",
    );
    $this->server->dump("{$this->backup}/crew.sql", 'crew');
    $this->server->exec("BEGIN; INSERT INTO crew.people VALUES (3, 'Cy'); DELETE FROM fares.notes; COMMIT");
    [$gtid, $fares, $crew] = [$this->server->gtid(), $this->server->state('fares'), $this->server->state('crew')];
    $this->server->exec('DROP DATABASE crew', 'DELETE FROM fares.tickets');
    $this->server->copyLogs($this->backup);
    $adopted = $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database', '--json');
    expect($adopted->json()['refused'])->toBe([]);
    $answer = $this->kaiseki('restore', 'fares-db', "--through=$gtid", '--server=fares-db', '--in-place', '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($this->server->state('fares'))
        ->toEqual($fares)
        ->and($this->server->state('crew'))
        ->toEqual($crew);
    $back = $this->kaiseki('put-back', (string) $answer->json()['run']);
    expect($back->code)
        ->toBe(0, $back->text)
        ->and($this->server->state('fares')['tickets'])
        ->toBe([]);
});

it('holds that of a dump of everything only what is not the server\'s own comes back', function (): void {
    $this->server->exec('CREATE DATABASE crew', 'CREATE TABLE crew.people (id INT PRIMARY KEY)', 'INSERT INTO crew.people VALUES (1)');
    $this->server->dump("{$this->backup}/all.sql", '--all-databases');
    $this->server->exec('INSERT INTO crew.people VALUES (2)', "CREATE USER late@'%'");
    $states = [$this->server->state('fares'), $this->server->state('crew')];
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    $other = new Mariadb($this->scratch()->path.'/other', 5);
    $other->addTo($this, 'spare');
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 5),
        '--server=spare',
        '--in-place',
        '--json',
    );
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and([$other->state('fares'), $other->state('crew')])
        ->toEqual($states)
        ->and($other->one("SELECT COUNT(*) FROM mysql.user WHERE user = 'late'"))
        ->toBe('0');
    $one = $this->kaiseki(
        'restore',
        'fares-db',
        '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 5),
        '--server=spare',
        '--source-schema=crew',
        '--schema=crew2',
        '--json',
    );
    expect($one->code)->toBe(0, $one->text)->and($other->state('crew2'))->toEqual($states[1]);
    $other->stop();
});

it('holds that a table without a key, and one that was dropped, say what cannot be done', function (): void {
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    [$gtid] = mistake($this->server, 'DELETE FROM notes');
    [$drop] = mistake($this->server, 'DROP TABLE notes');
    $this->server->copyLogs($this->backup);
    $this->kaiseki('adopt', $this->backup, '--as=fares-db', '--kind=database');
    foreach (['rows-of' => $drop, 'reverse' => $gtid] as $way => $which) {
        $answer = $this->kaiseki('restore', 'fares-db', "--$way=$which", '--server=fares-db', '--json');
        expect($answer->code)->toBe(4)->and(strtolower($answer->text))->toContain('not there any more');
    }
    expect($this->kaiseki('restore', 'fares-db', "--reverse=$drop", '--server=fares-db', '--json')->json()['error'] ?? '')->toContain(
        'cannot be reversed',
    );
    $this->server->exec('CREATE TABLE notes (at DATETIME, what VARCHAR(100))');
    $answer = $this->kaiseki('restore', 'fares-db', "--rows-of=$gtid", '--server=fares-db', '--json');
    expect($answer->code)
        ->toBe(4)
        ->and($answer->json()['left_out'][0]['because'])
        ->toContain('no primary key');
});
