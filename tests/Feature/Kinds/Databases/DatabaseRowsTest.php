<?php

declare(strict_types=1);

use App\Kinds\Databases\Run\DatabaseRun;
use App\Models\Run;
use Tests\Support\Mariadb;

// Rows of live tables that come back one by one: exactly as they were, whatever the tables are and do.

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec('CREATE DATABASE fares', 'USE fares');
    $this->server->addTo($this, 'fares-db');
    $this->backup = $this->scratch()->folder('backup');
});

afterEach(fn () => $this->server->stop());

/** @return string the GTID of a statement */
function commit(object $test, string ...$statements): string
{
    $test->server->exec(...$statements);

    return $test->server->gtid();
}

function adoptAll(object $test): void
{
    $test->server->copyLogs($test->backup);
    $refused = array_column(
        $test->kaiseki('adopt', $test->backup, '--as=fares-db', '--kind=database', '--json')->json()['refused'],
        'because',
    );
    expect(array_filter($refused, fn (string $because): bool => ! str_contains($because, 'registered already')))->toBe([]);
}

it('runs no trigger for rows that come back, sets no column, cascades no key; and back again', function (string $way): void {
    $this->server->exec(
        'CREATE TABLE sailings (id INT PRIMARY KEY, sold INT NOT NULL DEFAULT 0)',
        'CREATE TABLE tickets (id INT PRIMARY KEY AUTO_INCREMENT, sailing INT, price DECIMAL(9,2), changed TIMESTAMP(6) NOT NULL DEFAULT '.
            'CURRENT_TIMESTAMP(6) ON UPDATE CURRENT_TIMESTAMP(6), FOREIGN KEY (sailing) REFERENCES sailings (id))',
        'CREATE TABLE stubs (ticket INT, n INT, PRIMARY KEY (ticket, n), FOREIGN KEY (ticket) REFERENCES tickets (id) ON DELETE CASCADE)',
        'CREATE TABLE audit (id INT PRIMARY KEY AUTO_INCREMENT, what VARCHAR(40))',
        'CREATE TRIGGER sold AFTER INSERT ON tickets FOR EACH ROW UPDATE sailings SET sold = sold + 1 WHERE id = NEW.sailing',
        'CREATE TRIGGER loud BEFORE UPDATE ON tickets FOR EACH ROW SET NEW.price = NEW.price + 100',
        "CREATE TRIGGER seen AFTER DELETE ON tickets FOR EACH ROW INSERT INTO audit (what) VALUES (CONCAT('gone ', OLD.id))",
        'INSERT INTO sailings VALUES (1, 0), (2, 0)',
        'INSERT INTO tickets (sailing, price) VALUES (1, 5), (1, 6), (2, 7)',
        'INSERT INTO stubs VALUES (3, 1)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $before = $this->server->state('fares');
    $bad = commit($this, 'BEGIN', 'UPDATE tickets SET price = 0', 'DELETE FROM tickets WHERE sailing = 1', 'COMMIT');
    $now = $this->server->state('fares');
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--$way=$bad", '--json');
    expect($answer->code)->toBe(0, $answer->text);
    $is = $this->server->state('fares');
    expect([$is['tickets'], $is['sailings'], $is['stubs']])
        ->toEqual([$before['tickets'], $before['sailings'], $before['stubs']])
        ->and(count($is['audit']))
        ->toBe($way === 'reverse' ? 0 : 2);
    $back = $this->kaiseki('put-back', (string) $answer->json()['run']);
    expect($back->code)->toBe(0, $back->text)->and($this->server->state('fares'))->toEqual($now);
})->with(['rows-of', 'reverse']);

it('holds that a server that runs triggers for row events too is told of, and nothing is done', function (): void {
    $this->server->exec(
        'CREATE TABLE t (id INT PRIMARY KEY)',
        'INSERT INTO t VALUES (1)',
        "SET GLOBAL slave_run_triggers_for_rbr = 'ENFORCE'",
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $bad = commit($this, 'DELETE FROM t');
    adoptAll($this);
    $blocked = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad", '--json');
    expect($blocked->code)
        ->toBe(3)
        ->and($blocked->json()['error'])
        ->toContain('ENFORCE')
        ->and($this->server->one('SELECT COUNT(*) FROM t'))
        ->toBe('0');
});

it('holds that rows that come back take no more of the log than when they went', function (): void {
    $this->server->exec(
        'CREATE TABLE t (id INT PRIMARY KEY, v VARCHAR(80))',
        "INSERT INTO t SELECT seq, REPEAT('x', 80) FROM seq_1_to_30000",
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $logged = function (callable $does): int {
        $this->server->exec('FLUSH BINARY LOGS');
        $does();

        return (int) $this->server->rows('SHOW MASTER STATUS')[0]['Position'];
    };
    $gone = $logged(fn () => commit($this, 'DELETE FROM t'));
    $bad = $this->server->gtid();
    adoptAll($this);
    $back = $logged(fn () => expect($this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad")->code)->toBe(0));
    expect($this->server->one('SELECT COUNT(*) FROM t'))
        ->toBe('30000')
        ->and($back)
        ->toBeLessThan(1.1 * $gone);
});

it('holds that what was changed is in the log of the server as rows, which a replica can take', function (): void {
    $this->server->exec('CREATE TABLE t (id INT PRIMARY KEY, v INT)', 'INSERT INTO t VALUES (1, 1), (2, 2)');
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $bad = commit($this, 'DELETE FROM t');
    adoptAll($this);
    $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad", '--json');
    $state = $this->server->state('fares');
    $gtid = $this->server->gtid();
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--through=$gtid", '--schema=replayed', '--json');
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('replayed'))->toEqual($state)->and($state['t'])->toHaveCount(2);
});

it('holds that rows come back into a table that was altered since: columns it had not keep what they hold', function (string $way): void {
    $this->server->exec(
        'CREATE TABLE people (id INT PRIMARY KEY, name VARCHAR(20), note TEXT)',
        "INSERT INTO people VALUES (1, 'a', 'n'), (2, 'b', NULL), (3, 'c', 'x')",
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $bad = commit($this, 'BEGIN', "UPDATE people SET name = 'bad' WHERE id < 3", 'DELETE FROM people WHERE id = 3', 'COMMIT');
    $this->server->exec(
        "ALTER TABLE people ADD email VARCHAR(20) NOT NULL DEFAULT 'none' AFTER id, DROP note",
        "UPDATE people SET email = 'e2' WHERE id = 2",
    );
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--$way=$bad", '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and(implode(' ', $answer->json()['remarks']))
        ->toContain('email')
        ->and($this->server->rows('SELECT * FROM fares.people ORDER BY id'))
        ->toBe([
            ['id' => '1', 'email' => 'none', 'name' => 'a'],
            ['id' => '2', 'email' => 'e2', 'name' => 'b'],
            ['id' => '3', 'email' => 'none', 'name' => 'c'],
        ]);
})->with(['rows-of', 'reverse']);

it('holds that a table that keeps a history of its own is left, and the others come back', function (): void {
    $this->server->exec(
        'CREATE TABLE ver (id INT PRIMARY KEY, v INT) WITH SYSTEM VERSIONING',
        'CREATE TABLE plain (id INT PRIMARY KEY, v INT)',
        'INSERT INTO ver VALUES (1, 1)',
        'INSERT INTO plain VALUES (1, 1)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $before = $this->server->state('fares');
    $bad = commit($this, 'BEGIN', 'UPDATE ver SET v = 9', 'UPDATE plain SET v = 9', 'COMMIT');
    $now = $this->server->state('fares');
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad", '--json');
    expect($answer->code)
        ->toBe(4)
        ->and($answer->json()['left_out'][0]['because'])
        ->toContain('FOR SYSTEM_TIME')
        ->and($this->server->state('fares'))
        ->toEqual(['plain' => $before['plain'], 'ver' => $now['ver']]);
    $beside = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--before=$bad", '--schema=then', '--json');
    expect($beside->code)
        ->toBe(0, $beside->text)
        ->and($this->server->state('then'))
        ->toEqual($before)
        ->and(implode(' ', $beside->json()['remarks']))
        ->toContain('system versioning');
});

it('holds that rows longer than the server takes in one statement come, and its limit is what it was', function (): void {
    $this->server->exec('SET GLOBAL max_allowed_packet = 1048576', 'CREATE TABLE pics (id INT PRIMARY KEY, p LONGBLOB)');
    foreach ([1, 2] as $id) {
        // 0.9 MiB, which is 1.8 as a statement
        $this->server->exec("INSERT INTO pics VALUES ($id, REPEAT(0xfe, 943718))");
    }
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $before = $this->server->state('fares');
    $bad = commit($this, 'DELETE FROM pics');
    adoptAll($this);
    $beside = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--before=$bad", '--schema=then', '--json');
    expect($beside->code)
        ->toBe(0, $beside->text)
        ->and($this->server->state('then') === $before)
        ->toBeTrue()
        ->and(implode(' ', $beside->json()['remarks']))
        ->toContain('max_allowed_packet');
    $rows = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad", '--json');
    expect($rows->code)
        ->toBe(0, $rows->text)
        ->and($this->server->state('fares') === $before)
        ->toBeTrue()
        ->and($this->server->one('SELECT @@GLOBAL.max_allowed_packet'))
        ->toBe('1048576');
});

it('holds that an attempt that was killed right after its commit is seen to be done, and can be put back', function (): void {
    $this->server->exec('CREATE TABLE t (id INT PRIMARY KEY, v INT)', 'INSERT INTO t VALUES (1, 1), (2, 2)');
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $bad = commit($this, 'UPDATE t SET v = 0');
    $now = $this->server->state('fares');
    adoptAll($this);
    $run = Run::query()->findOrFail($this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$bad", '--json')->json()['run']);
    $then = $this->server->state('fares');
    $run->update([
        'state' => 'running',
        'worker' => gethostname().':1:0',
        'ended_at' => null,
        'outcome' => array_diff_key($run->outcome, ['applied' => true]),
    ]);
    (new DatabaseRun)->carryOut($run->refresh());
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and($run->outcome['rows_restored'])
        ->toBe(2)
        ->and($this->server->state('fares'))
        ->toEqual($then);
    expect($this->kaiseki('put-back', (string) $run->id)->code)->toBe(0)->and($this->server->state('fares'))->toEqual($now);
});

it('follows keys into another schema where its dump is there, and says that they are unknown where it is not', function (bool $both): void {
    $this->server->exec(
        'CREATE DATABASE crew',
        'CREATE TABLE crew.people (id INT PRIMARY KEY)',
        'INSERT INTO crew.people VALUES (1), (2)',
        'CREATE TABLE shifts (id INT PRIMARY KEY, who INT, FOREIGN KEY (who) REFERENCES crew.people (id) ON DELETE CASCADE)',
        'INSERT INTO shifts VALUES (1, 1), (2, 2)',
    );
    $this->server->dump("{$this->backup}/fares.sql", ...$both ? ['--databases', 'fares', 'crew'] : ['fares']);
    $gtid = commit(
        $this,
        'INSERT INTO crew.people VALUES (3)',
        'INSERT INTO fares.shifts VALUES (3, 3)',
        'DELETE FROM crew.people WHERE id = 1',
        'INSERT INTO shifts VALUES (4, 2)',
    );
    $state = $this->server->state('fares');
    adoptAll($this);
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        '--server=fares-db',
        "--through=$gtid",
        '--source-schema=fares',
        '--schema=then',
        '--json',
    );
    if ($both) {
        expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('then'))->toEqual($state);
    } else {
        // what CASCADE took out cannot be known, and the key that points at nothing shows it
        expect($answer->code)
            ->toBe(4, $answer->text)
            ->and(implode(' ', $answer->json()['remarks']))
            ->toContain('crew.people')
            ->and($this->server->state('then')['shifts'])
            ->toHaveCount(4);
    }
})->with([true, false]);

it('holds that a prepared transaction is rolled forward when it was committed', function (): void {
    $this->server->exec('CREATE TABLE t (id INT PRIMARY KEY)');
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->server->exec("XA START 'a', 'b'", 'INSERT INTO t VALUES (1)', "XA END 'a', 'b'", "XA PREPARE 'a', 'b'");
    $prepared = $this->server->gtid();
    $this->server->exec(
        "XA COMMIT 'a', 'b'",
        'FLUSH BINARY LOGS',
        "XA START 'c'",
        'INSERT INTO t VALUES (2)',
        "XA END 'c'",
        "XA PREPARE 'c'",
        "XA ROLLBACK 'c'",
        'INSERT INTO t VALUES (3)',
    );
    $end = $this->server->gtid();
    adoptAll($this);
    foreach ([$prepared => [], $end => [['id' => '1'], ['id' => '3']]] as $gtid => $wanted) {
        $schema = 'at'.count($wanted);
        $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--through=$gtid", "--schema=$schema", '--json');
        expect($this->server->state($schema))->toBe(['t' => $wanted], $answer->text);
    }
});

it('holds that dumps that do not say what they hold are taken at the word of whoever restores', function (string $option): void {
    $this->server->exec(
        'CREATE TABLE t (id INT PRIMARY KEY)',
        'CREATE TABLE u (id INT PRIMARY KEY, t INT, FOREIGN KEY (t) REFERENCES t (id))',
        'INSERT INTO t VALUES (1)',
        'INSERT INTO u VALUES (1, 1)',
    );
    $this->server->dump("{$this->backup}/some.sql", $option, 'fares');
    $gtid = commit($this, 'INSERT INTO t VALUES (2)');
    $state = $this->server->state('fares');
    adoptAll($this);
    expect($this->kaiseki('restore', 'fares-db', '--server=fares-db', "--through=$gtid", '--schema=then', '--json')->code)->toBe(3);
    $answer = $this->kaiseki(
        'restore',
        'fares-db',
        '--server=fares-db',
        "--through=$gtid",
        '--source-schema=fares',
        '--schema=then',
        '--json',
    );
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('then'))->toEqual($state);
})->with(['--skip-comments', '--compact']);

it('lets no trigger work on rows while these are loaded', function (): void {
    $this->server->exec(
        'CREATE TABLE t (id INT PRIMARY KEY, name VARCHAR(20))',
        "INSERT INTO t VALUES (1, 'small')",
        'CREATE TRIGGER big BEFORE INSERT ON t FOR EACH ROW SET NEW.name = UPPER(NEW.name)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $gtid = commit($this, 'INSERT INTO t VALUES (2, "two")');
    $state = $this->server->state('fares');
    adoptAll($this);
    foreach (['all' => [], 'one' => ['--tables=t']] as $schema => $more) {
        $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--through=$gtid", "--schema=$schema", '--json', ...$more);
        expect($answer->code)->toBe(0, $answer->text)->and($this->server->state($schema))->toEqual($state);
    }
});

it('holds that statements that were logged as text run again, and it is said what that means', function (): void {
    $this->server->exec(
        "SET SESSION binlog_format = 'STATEMENT'",
        'CREATE TABLE people (id INT PRIMARY KEY)',
        'CREATE TABLE orders (id INT PRIMARY KEY, p INT, FOREIGN KEY (p) REFERENCES people (id) ON DELETE CASCADE)',
        'INSERT INTO people VALUES (1), (2)',
        'INSERT INTO orders VALUES (1, 1), (2, 2)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $before = $this->server->state('fares');
    $bad = commit($this, 'DELETE FROM people WHERE id = 1');
    $state = $this->server->state('fares');
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--through=$bad", '--schema=then', '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($this->server->state('then'))
        ->toEqual($state)
        ->and(implode(' ', $answer->json()['remarks']))
        ->toContain('UUID()');
    $rows = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--rows-of=$bad", '--json');
    expect($rows->code)->toBe(0, $rows->text)->and($this->server->state('fares'))->toEqual($before);
    $definition = commit($this, 'ALTER TABLE people ADD x INT');
    adoptAll($this);
    $reverse = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--reverse=$definition", '--json');
    expect($reverse->code)->toBe(4)->and($reverse->json()['error'])->toContain('not about rows');
});

it('holds that CASCADE is seen where the same transaction also changed rows of that table, and followed', function (string $way): void {
    $this->server->exec(
        'CREATE TABLE orders (id INT PRIMARY KEY)',
        'CREATE TABLE parts (o INT, n INT, PRIMARY KEY (o, n), FOREIGN KEY (o) REFERENCES orders (id) ON DELETE CASCADE)',
        'INSERT INTO orders VALUES (1), (2)',
        'INSERT INTO parts VALUES (1, 1), (2, 1), (2, 2)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $before = $this->server->state('fares');
    $bad = commit($this, 'BEGIN', 'DELETE FROM parts WHERE o = 1', 'DELETE FROM orders WHERE id = 2', 'COMMIT');
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--$way=$bad", '--json');
    expect($answer->code)->toBe(0, $answer->text)->and($this->server->state('fares'))->toEqual($before);
})->with(['rows-of', 'reverse']);

it('holds that rows come back from the log alone, also where no dump holds a schema of the transaction', function (): void {
    $this->server->exec(
        'CREATE TABLE t (id INT PRIMARY KEY)',
        'CREATE DATABASE other',
        'CREATE TABLE other.log (id INT PRIMARY KEY)',
        'INSERT INTO t VALUES (1)',
        'INSERT INTO other.log VALUES (1)',
    );
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $bad = commit($this, 'BEGIN', 'DELETE FROM t', 'DELETE FROM other.log', 'COMMIT');
    adoptAll($this);
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', "--rows-of=$bad", '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($answer->json()['rows'])
        ->toBe(2)
        ->and($this->server->one('SELECT COUNT(*) FROM other.log'))
        ->toBe('1');
});
