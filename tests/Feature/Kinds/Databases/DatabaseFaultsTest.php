<?php

declare(strict_types=1);

use App\Kinds\Databases\Run\DatabaseRun;
use App\Models\Run;
use Tests\Support\Mariadb;

beforeEach(function (): void {
    $this->server = new Mariadb($this->scratch()->path.'/server');
    $this->server->exec('CREATE DATABASE fares', 'USE fares', 'CREATE TABLE tickets (id INT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(40))');
    $this->backup = $this->scratch()->folder('backup');
    $this->server->addTo($this, 'fares-db');
    $this->server->dump("{$this->backup}/fares.sql", 'fares');
    $this->gtids = [];
    for ($i = 1; $i <= 4; $i++) {
        $this->server->exec("INSERT INTO tickets (name) VALUES ('n$i')");
        $this->gtids[$i] = $this->server->gtid();
        $this->server->exec('FLUSH BINARY LOGS');
    }
    $this->server->copyLogs($this->backup);
    $this->logs = glob("{$this->backup}/binlog.*");
});

afterEach(fn () => $this->server->stop());

function adoptFares(object $test): array
{
    return $test->kaiseki('adopt', $test->backup, '--as=fares-db', '--kind=database', '--json')->json();
}

function restoreFares(object $test, string ...$more): Tests\Support\Answer
{
    static $n = 0;
    $n++;

    return $test->kaiseki('restore', 'fares-db', '--server=fares-db', "--schema=then$n", '--json', ...$more);
}

it('takes a missing log for a gap, and names the last state that can be reached', function (): void {
    unlink($this->logs[2]);
    adoptFares($this);
    $blocked = restoreFares($this, "--through={$this->gtids[4]}");
    expect($blocked->code)
        ->toBe(3)
        ->and($blocked->json()['error'])
        ->toContain(basename($this->logs[2]).' is missing')
        ->toContain("--through={$this->gtids[2]}");
    expect(restoreFares($this, "--through={$this->gtids[2]}")->code)->toBe(0);
    expect(restoreFares($this, '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60))->code)->toBe(3);
});

it('finds a flipped byte when the log is read, and uses nothing behind it', function (): void {
    $bytes = (string) file_get_contents($this->logs[1]);
    $at = (int) strpos($bytes, "('n2')") + 3; // in the statement
    $bytes[$at] = chr(ord($bytes[$at]) ^ 4);
    file_put_contents($this->logs[1], $bytes);
    $sets = array_column(adoptFares($this)['sets'], null, 'set');
    expect(implode(' ', $sets[basename($this->logs[1])]['remarks']))->toContain('fails its checksum');
    $blocked = restoreFares($this, "--through={$this->gtids[3]}");
    expect($blocked->code)
        ->toBe(3)
        ->and($blocked->json()['error'])
        ->toContain('fails its checksum')
        ->toContain("--through={$this->gtids[1]}");
});

it('tells a log that was cut at the border of an event from a whole one', function (): void {
    $list = $this->kaiseki('adopt', $this->backup, '--as=whole', '--kind=database', '--json');
    $end = collect($this->kaiseki('transactions', 'whole', '--json')->json()['transactions'])->firstWhere('gtid', $this->gtids[2])[
        'position'
    ];
    $cut = $this->scratch()->folder('cut');
    foreach ($this->logs as $log) {
        copy($log, "$cut/".basename($log));
    }
    copy("{$this->backup}/fares.sql", "$cut/fares.sql");
    file_put_contents("$cut/".basename($this->logs[1]), substr((string) file_get_contents($this->logs[1]), 0, $end));
    $this->kaiseki('adopt', $cut, '--as=fares-db', '--kind=database');
    $blocked = restoreFares($this, "--through={$this->gtids[3]}");
    expect($blocked->code)->toBe(3)->and($blocked->json()['error'])->toContain('does not follow')->toContain($this->gtids[1]);
});

it('holds that a position within a transaction is moved to its beginning, and that is told', function (): void {
    adoptFares($this);
    $transaction = collect($this->kaiseki('transactions', 'fares-db', '--json')->json()['transactions'])->firstWhere(
        'gtid',
        $this->gtids[3],
    );
    $answer = restoreFares($this, "--position={$transaction['file']}:".($transaction['position'] + 50));
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and(implode(' ', $answer->json()['remarks']))
        ->toContain("within transaction {$this->gtids[3]}")
        ->and($answer->json()['reached']['gtid'])
        ->toBe($this->gtids[2]);
});

it('refuses a dump that was cut short, with the reason', function (): void {
    file_put_contents("{$this->backup}/short.sql", substr((string) file_get_contents("{$this->backup}/fares.sql"), 0, -40));
    expect(adoptFares($this)['refused'])
        ->toHaveCount(1)
        ->and(adoptFares($this)['refused'][0]['because'])
        ->not->toBe('');
});

it('holds that what is named as a dump and is none is refused, and does not stand in for one', function (): void {
    file_put_contents("{$this->backup}/later.sql", "hello\n");
    file_put_contents("{$this->backup}/empty.sql", '');
    expect(array_column(adoptFares($this)['refused'], 'because', 'file')['later.sql'])->toContain('no dump');
    expect(restoreFares($this, "--through={$this->gtids[4]}")->code)->toBe(0);
});

it('holds that a table that neither the dump nor the logs know is told before anything is done', function (): void {
    adoptFares($this);
    $blocked = restoreFares($this, "--through={$this->gtids[3]}", '--tables=sailings');
    expect($blocked->code)->toBe(3)->and($blocked->json()['error'])->toContain('no sailings')->toContain('tickets');
});

it('does not load a dump of a newer version into an older server', function (): void {
    file_put_contents(
        "{$this->backup}/fares.sql",
        preg_replace(
            '/^-- Server version.*$/m',
            "-- Server version\t11.8.2-MariaDB",
            (string) file_get_contents("{$this->backup}/fares.sql"),
        ),
    );
    adoptFares($this);
    $blocked = restoreFares($this, "--through={$this->gtids[3]}");
    expect($blocked->code)->toBe(3)->and($blocked->json()['error'])->toContain('11.8');
});

it('says what to do with an encrypted log', function (): void {
    $format = substr((string) file_get_contents($this->logs[0]), 0, 256);
    $body = pack('VCVVVv', time(), 164, 2, 40, 296, 0).str_repeat('k', 17);
    file_put_contents(
        "{$this->backup}/".basename($this->logs[0]),
        $format.$body.strrev(hash('crc32b', $body, true)).random_bytes(500),
    );
    $sets = array_column(adoptFares($this)['sets'], null, 'set');
    expect(implode(' ', $sets[basename($this->logs[0])]['remarks'] ?? []))->toContain('--read-from-remote-server');
});

it('holds that logs of another server are refused where they follow nothing', function (): void {
    $other = new Mariadb($this->scratch()->path.'/other', 9);
    $other->exec('CREATE DATABASE x', 'FLUSH BINARY LOGS', 'CREATE DATABASE y');
    $from = $this->scratch()->folder('foreign');
    $other->copyLogs($from);
    $other->stop();
    adoptFares($this);
    foreach (glob("$from/binlog.*") ?: [] as $log) {
        copy($log, "{$this->backup}/foreign.".substr($log, -6));
    }
    $again = adoptFares($this);
    expect(implode(' ', array_column($again['refused'], 'because')))->toContain('server 9');
});

it('does not touch a schema of that name that is there already', function (): void {
    adoptFares($this);
    $this->server->exec('CREATE DATABASE taken', 'CREATE TABLE taken.t (a INT)');
    $blocked = $this->kaiseki('restore', 'fares-db', '--server=fares-db', '--schema=taken', "--through={$this->gtids[1]}", '--json');
    expect($blocked->code)
        ->toBe(3)
        ->and($blocked->json()['error'])
        ->toContain('already')
        ->and($this->server->one('SELECT COUNT(*) FROM taken.t'))
        ->toBe('0');
});

it('holds that an account that may not do it is told before anything begins', function (): void {
    adoptFares($this);
    $this->server->exec("CREATE USER weak@'127.0.0.1' IDENTIFIED BY 'w'", "GRANT SELECT ON *.* TO weak@'127.0.0.1'");
    putenv('KAISEKI_SERVER_PASSWORD=w');
    $this->kaiseki('server', 'add', 'weak', '--host=127.0.0.1', "--port={$this->server->port}", '--user=weak');
    putenv('KAISEKI_SERVER_PASSWORD');
    $blocked = $this->kaiseki('restore', 'fares-db', '--server=weak', '--schema=later', "--through={$this->gtids[1]}", '--json');
    expect($blocked->code)->toBe(3)->and($blocked->json()['error'])->toContain('lacks');
    putenv('KAISEKI_SERVER_PASSWORD=wrong');
    expect($this->kaiseki('server', 'add', 'weak', '--host=127.0.0.1', "--port={$this->server->port}", '--user=weak')->code)->toBe(3);
    putenv('KAISEKI_SERVER_PASSWORD');
});

it('carries a run whose process is gone out again, before and after it changed places', function (string $stage): void {
    adoptFares($this);
    $this->server->exec('DELETE FROM tickets');
    $answer = $this->kaiseki('restore', 'fares-db', '--server=fares-db', '--in-place', "--through={$this->gtids[3]}", '--json')->json();
    $run = Run::query()->findOrFail($answer['run']);
    $file = (glob(App\Runs\RunFiles::folder($run).'/swap-*.json') ?: [])[0];
    if ($stage === 'before') {
        // As a kill between the plan and the change of places leaves it.
        expect($this->kaiseki('put-back', (string) $run->id)->code)->toBe(0);
        unlink($file);
    } else {
        $state = json_decode((string) file_get_contents($file), true);
        file_put_contents($file, json_encode(['stage' => $stage] + $state));
    }
    $run->refresh()->update(['state' => 'running', 'worker' => gethostname().':1:0', 'put_back_at' => null, 'ended_at' => null]);
    (new DatabaseRun)->carryOut($run->refresh());
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and($run->outcome['right'])
        ->toBeTrue()
        ->and($this->server->one('SELECT GROUP_CONCAT(name ORDER BY id) FROM fares.tickets'))
        ->toBe('n1,n2,n3');
    $back = $this->kaiseki('put-back', (string) $run->id);
    expect($back->code)->toBe(0, $back->text)->and($this->server->one('SELECT COUNT(*) FROM fares.tickets'))->toBe('0');
})->with(['before', 'planned', 'renamed']);

it('holds that a dump that reaches out of the server is stopped, and leaves nothing', function (string $statement): void {
    $there = $this->scratch()->path.'/written';
    $dump = (string) file_get_contents("{$this->backup}/fares.sql");
    file_put_contents(
        "{$this->backup}/fares.sql",
        str_replace("UNLOCK TABLES;\n", "UNLOCK TABLES;\n".str_replace('FILE', $there, $statement)."\n", $dump),
    );
    adoptFares($this);
    $failed = restoreFares($this, "--through={$this->gtids[2]}");
    expect($failed->code)
        ->toBe(4)
        ->and(glob("$there*"))
        ->toBe([])
        ->and(
            $this->server->one(
                "SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name LIKE 'then%' OR schema_name LIKE 'kaiseki%'",
            ),
        )
        ->toBe('0');
})->with([
    "SET GLOBAL general_log_file = 'FILE', general_log = 1;",
    "SELECT 'x' INTO OUTFILE 'FILE';",
    '\! touch FILE',
    'system touch FILE',
]);

it('holds that tables that somebody holds cannot change places, and then nothing has', function (): void {
    $this->server->exec(
        'CREATE VIEW names AS SELECT name FROM tickets',
        'CREATE TRIGGER bang BEFORE INSERT ON tickets FOR EACH ROW SET NEW.name = UPPER(NEW.name)',
    );
    adoptFares($this);
    $holder = new PDO("mysql:unix_socket={$this->scratch()->path}/server/s.sock;dbname=fares", 'root', '');
    $holder->exec('START TRANSACTION');
    $holder->query('SELECT COUNT(*) FROM tickets')->fetchAll();
    $failed = $this->kaiseki('restore', 'fares-db', '--server=fares-db', '--in-place', "--through={$this->gtids[2]}", '--json');
    $holder->exec('ROLLBACK');
    expect($failed->code)
        ->toBe(4, $failed->text)
        ->and($this->server->one('SELECT COUNT(*) FROM names'))
        ->toBe('4')
        ->and($this->server->one("SELECT COUNT(*) FROM information_schema.triggers WHERE trigger_schema = 'fares'"))
        ->toBe('1')
        ->and($this->server->one("SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name LIKE 'kaiseki%'"))
        ->toBe('0');
    $again = $this->kaiseki('resume', (string) $failed->json()['run']);
    expect($again->code)->toBe(0, $again->text)->and($this->server->one('SELECT GROUP_CONCAT(name) FROM fares.tickets'))->toBe('n1,n2');
});
