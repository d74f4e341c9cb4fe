<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\ReplayFile;
use Symfony\Component\Process\Process;
use Tests\Support\Mariadb;

/*
 * MariaDB's own mariadb-binlog as the oracle: it tells the same transactions, at the same offsets, with the same rows; and
 * of a log that we wrote for rolling forward it makes what it makes of the server's.
 */

/** @return list<array{gtid: string, position: int, rows: array<string, array{int, int, int}>}> what mariadb-binlog tells of a log */
function toldByTool(string $log): array
{
    $text = (new Process(
        ['mariadb-binlog', '--no-defaults', '--base64-output=decode-rows', '--verbose', $log],
        null,
        ['TZ' => 'UTC'],
        null,
        120,
    ))
        ->mustRun()
        ->getOutput();
    $transactions = [];
    $at = 0;
    foreach (explode("\n", $text) as $line) {
        if (preg_match('/^# at (\d+)$/', $line, $m) === 1) {
            $at = (int) $m[1];
        } elseif (preg_match('/\tGTID (\d+-\d+-\d+)/', $line, $m) === 1) {
            $transactions[] = ['gtid' => $m[1], 'position' => $at, 'rows' => []];
        } elseif (preg_match('/^### (INSERT INTO|UPDATE|DELETE FROM) `(\w+)`\.`(\w+)`$/', $line, $m) === 1) {
            $of = &$transactions[count($transactions) - 1]['rows']["{$m[2]}.{$m[3]}"];
            $of ??= [0, 0, 0];
            $of[['INSERT INTO' => 0, 'UPDATE' => 1, 'DELETE FROM' => 2][$m[1]]]++;
            unset($of);
        }
    }

    return $transactions;
}

/** @return list<array{gtid: string, position: int, rows: array<string, array{int, int, int}>}> what we read in it */
function readByUs(string $log): array
{
    $transactions = [];
    foreach ((new LogReader(ArchiveFile::at($log)->open()))->transactions() as $one) {
        $rows = [];
        foreach ($one->tables as $count) {
            if ($count->rows() > 0) {
                $rows["{$count->schema}.{$count->table}"] = [$count->inserted, $count->updated, $count->deleted];
            }
        }
        $transactions[] = ['gtid' => $one->gtid, 'position' => $one->position, 'rows' => $rows];
    }

    return $transactions;
}

it('holds that mariadb-binlog tells the same transactions, offsets and rows', function (array $options): void {
    $server = new Mariadb($this->scratch()->path.'/server', 3, $options);
    $server->exec(
        'CREATE DATABASE z',
        'USE z',
        "SET sql_mode = ''",
        'CREATE TABLE every (id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, a TINYINT, b SMALLINT, c MEDIUMINT, d INT, e FLOAT, f '.
            'DOUBLE, g DECIMAL(65,30), h DATE, i TIME(6), j DATETIME(5), k TIMESTAMP(1) NULL, l YEAR, m CHAR(255) CHARACTER SET utf8mb4, '.
                "n VARCHAR(10), o VARCHAR(9500), p BINARY(20), q VARBINARY(300), r TINYBLOB, s MEDIUMTEXT, t LONGBLOB, u ENUM('a','b'), ".
                    "v SET('a','b','c','d','e','f','g','h','i'), w BIT(64), x GEOMETRY, y UUID, z INET6, aa JSON, ab TIME, ac TEXT ".
                        'COMPRESSED, ad VARCHAR(100) COMPRESSED)',
        'CREATE TABLE few (n INT)',
    );
    mt_srand(7);
    for ($i = 0; $i < 40; $i++) {
        $null = fn (string $value): string => mt_rand(0, 3) === 0 ? 'NULL' : $value;
        $row = fn (): string => '('.
            implode(',', [
                'NULL',
                $null((string) mt_rand(-128, 127)),
                $null('-5'),
                $null('70000'),
                $null('1'),
                $null('1.5'),
                $null('2.25'),
                $null('-12345.678'),
                $null("'0000-00-00'"),
                $null("'-838:59:59'"),
                $null("'2026-10-25 02:30:00.12345'"),
                $null('NOW()'),
                $null('2026'),
                $null("'".str_repeat('🚢', mt_rand(0, 60))."'"),
                $null("'ten'"),
                $null("'".str_repeat('x', mt_rand(0, 9000))."'"),
                $null("x'00ff'"),
                $null("'".str_repeat('b', mt_rand(0, 300))."'"),
                $null("'tiny'"),
                $null("'".str_repeat('m', mt_rand(0, 30000))."'"),
                $null("x'0102'"),
                $null("'b'"),
                $null("'a,i'"),
                $null("b'1010'"),
                $null('POINT(1,2)'),
                $null('UUID()'),
                $null("'::1'"),
                $null("'{}'"),
                $null("'12:00'"),
                $null("'".str_repeat('c', mt_rand(0, 5000))."'"),
                $null("'".str_repeat('v', mt_rand(0, 100))."'"),
            ]).
            ')';
        $server->exec('INSERT INTO every VALUES '.implode(',', array_map(fn (): string => $row(), range(1, mt_rand(1, 12)))));
        if ($i % 5 === 0) {
            $server->exec(
                'BEGIN',
                "UPDATE every SET d = $i, o = CONCAT('u', o) WHERE id % 3 = 0",
                'INSERT INTO few (n) VALUES (1), (2)',
                'DELETE FROM every WHERE id % 11 = 5',
                'SAVEPOINT s',
                'DELETE FROM few',
                'ROLLBACK TO s',
                'COMMIT',
                'ALTER TABLE few ADD c'.$i.' INT',
            );
        }
    }
    $logs = $this->scratch()->folder('logs');
    $server->copyLogs($logs);
    $server->stop();
    foreach (glob("$logs/*") ?: [] as $log) {
        expect(readByUs($log))->toEqual(toldByTool($log));
    }
})->with([
    [[]],
    [['--binlog-row-event-max-size=256']],
    [['--log-bin-compress=ON', '--log-bin-compress-min-len=10']],
    [['--binlog-row-image=MINIMAL']],
    [['--binlog-checksum=NONE']],
    [['--binlog-row-metadata=FULL']],
]);

it('holds that what is written for rolling forward is, to mariadb-binlog, the same without what is left out', function (): void {
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE a',
        'CREATE DATABASE b',
        'CREATE TABLE a.t (i INT PRIMARY KEY)',
        'CREATE TABLE b.t (i INT PRIMARY KEY)',
        'CREATE TABLE a.u (i INT PRIMARY KEY)',
    );
    for ($i = 0; $i < 20; $i++) {
        // One statement over tables of both: the event that ends it may be the one that goes.
        $server->exec(
            'BEGIN',
            "INSERT INTO a.t VALUES ($i)",
            "INSERT INTO b.t VALUES ($i)",
            "INSERT INTO a.u VALUES ($i)",
            'COMMIT',
            $i % 4 === 3 ? 'UPDATE a.t, b.t SET a.t.i = a.t.i + 1000, b.t.i = b.t.i + 1000 WHERE a.t.i = b.t.i AND a.t.i < 1000' : 'DO 0',
        );
    }
    $logs = $this->scratch()->folder('logs');
    $server->copyLogs($logs);
    $server->stop();
    $log = (glob("$logs/*") ?: [])[0];
    $skip = readByUs($log)[9]['gtid'];
    $out = fopen("$logs/replay", 'wb');
    assert($out !== false);
    (new ReplayFile($out, ['a' => null], [$skip]))->add(new LogReader(ArchiveFile::at($log)->open()), ['a' => [4, PHP_INT_MAX]]);
    fclose($out);
    $wanted = [];
    foreach (toldByTool($log) as $one) {
        $rows = array_filter($one['rows'], fn (string $table): bool => str_starts_with($table, 'a.'), ARRAY_FILTER_USE_KEY);
        if ($one['gtid'] !== $skip && $rows !== []) {
            $wanted[$one['gtid']] = $rows;
        }
    }
    $is = array_filter(array_column(toldByTool("$logs/replay"), 'rows', 'gtid'), fn (array $rows): bool => $rows !== []);
    expect($is)
        ->toEqual($wanted)
        ->and(
            array_filter(
                array_merge(...array_map(array_keys(...), array_values($is))),
                fn (string $table): bool => str_starts_with($table, 'b.'),
            ),
        )
        ->toBe([]);
    (new Process(['mariadb-binlog', '--no-defaults', '--verify-binlog-checksum', "$logs/replay"]))->mustRun();
});

it('does the worked example of the server manual: a table dropped by mistake, everything else kept', function (): void {
    // MariaDB knowledge base, "mariadb-binlog": restore the dump, roll forward to before the statement, then on from behind it.
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE shop',
        'CREATE TABLE shop.orders (id INT PRIMARY KEY)',
        'CREATE TABLE shop.log (id INT PRIMARY KEY)',
        'INSERT INTO shop.orders VALUES (1)',
    );
    $backup = $this->scratch()->folder('backup');
    $server->addTo($this, 'shop');
    $server->dump("$backup/shop.sql", 'shop');
    $server->exec('INSERT INTO shop.orders VALUES (2)', 'DROP TABLE shop.orders');
    $drop = $server->gtid();
    $server->exec('INSERT INTO shop.log VALUES (7)');
    $server->copyLogs($backup);
    // By hand, as the manual does it.
    $position = collect(readByUs((glob("$backup/binlog.*") ?: [])[0]))->firstWhere('gtid', $drop)['position'];
    $this->kaiseki('adopt', $backup, '--as=shop', '--kind=database');
    $answer = $this->kaiseki('restore', 'shop', "--skip=$drop", '--server=shop', '--schema=again', '--json');
    expect($answer->code)->toBe(0, $answer->text)->and($position)->toBeGreaterThan(4);
    expect($server->state('again'))->toEqual(['orders' => [['id' => '1'], ['id' => '2']], 'log' => [['id' => '7']]]);
    $server->stop();
});

it('finds a flipped bit and a cut wherever they are, and keeps what is before them', function (): void {
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec('CREATE DATABASE a', 'CREATE TABLE a.t (i INT PRIMARY KEY, v VARCHAR(200))');
    for ($i = 0; $i < 12; $i++) {
        $server->exec("INSERT INTO a.t VALUES ($i, REPEAT('v', 10 * $i))");
    }
    $logs = $this->scratch()->folder('logs');
    $server->copyLogs($logs);
    $server->stop();
    $log = (glob("$logs/*") ?: [])[0];
    $bytes = (string) file_get_contents($log);
    $whole = iterator_to_array((new LogReader(ArchiveFile::at($log)->open()))->transactions(), false);
    mt_srand(3);
    for ($n = 0; $n < 150; $n++) {
        $at = mt_rand(4, strlen($bytes) - 1);
        $isCut = $n % 3 === 0;
        $bad = $isCut ? substr($bytes, 0, $at) : substr_replace($bytes, chr(ord($bytes[$at]) ^ (1 << mt_rand(0, 7))), $at, 1);
        if ($at === 21 || $bad[21] !== $bytes[21]) {
            continue; // the flag that a log is in use is not in its checksum
        }
        file_put_contents("$logs/bad", $bad);
        $reader = new LogReader(ArchiveFile::at("$logs/bad")->open());
        $read = iterator_to_array($reader->transactions(), false);
        $sound = array_values(array_filter($whole, fn ($one): bool => $one->end <= $at));
        expect($read)->toEqual($sound);
        // A cut between two events is seen by what follows: the log does not end as a closed one does.
        expect($reader->problem !== null || ($isCut && $reader->next === ''))->toBeTrue("bit or cut at $at");
        if (! $isCut) {
            $tool = new Process(['mariadb-binlog', '--no-defaults', '--verify-binlog-checksum', '--result-file=/dev/null', "$logs/bad"]);
            $tool->run();
            expect($tool->isSuccessful())->toBeFalse("mariadb-binlog agrees at $at");
        }
    }
});

it('checks, counts and passes over an event too large to be kept', function (): void {
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE a',
        'CREATE TABLE a.t (i INT PRIMARY KEY, v LONGBLOB)',
        "INSERT INTO a.t VALUES (1, REPEAT('x', 300000)), (2, 'y')",
        'UPDATE a.t SET i = i + 10',
        'DELETE FROM a.t',
    );
    $logs = $this->scratch()->folder('logs');
    $server->copyLogs($logs);
    $server->stop();
    $log = (glob("$logs/*") ?: [])[0];
    $told = fn (iterable $transactions): array => array_map(
        fn ($one): array => [$one->gtid, $one->position, $one->end],
        iterator_to_array($transactions, false),
    );
    $small = new LogReader(ArchiveFile::at($log)->open(), 65536);
    expect($told($small->transactions()))
        ->toBe($told((new LogReader(ArchiveFile::at($log)->open()))->transactions()))
        ->and($small->problem)
        ->toBeNull();
    $bytes = (string) file_get_contents($log);
    $at = (int) strpos($bytes, 'xxxxxxxx') + 100_000;
    file_put_contents($log, substr_replace($bytes, 'z', $at, 1));
    $damaged = new LogReader(ArchiveFile::at($log)->open(), 65536);
    iterator_to_array($damaged->transactions(), false);
    expect($damaged->problem)->toContain('fails its checksum');
});

it('holds that row events of a table are, to mariadb-binlog, those of a table of another name', function (): void {
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec('CREATE DATABASE a', 'USE a', 'CREATE TABLE a.t (i INT PRIMARY KEY, v VARCHAR(300))', 'CREATE TABLE a.other (i INT)');
    [$file, $from] = $server->position();
    $server->exec(
        "INSERT INTO a.t SELECT seq, REPEAT('w', seq) FROM seq_1_to_250",
        'INSERT INTO a.other VALUES (1)',
        'UPDATE a.t SET v = i WHERE i > 200',
        'DELETE FROM a.t WHERE i < 20',
    );
    $until = $server->position()[1];
    $logs = $this->scratch()->folder('logs');
    $server->copyLogs($logs);
    $out = fopen("$logs/rows", 'wb');
    assert($out !== false);
    (new Kaiseki\Core\Database\RowEvents($out))->take(new LogReader(ArchiveFile::at("$logs/$file")->open()), $from, $until, [
        "a\0t" => ['far', 'away'],
    ]);
    fclose($out);
    $text = (new Process([
        'mariadb-binlog',
        '--no-defaults',
        '--verify-binlog-checksum',
        '--base64-output=decode-rows',
        '--verbose',
        "$logs/rows",
    ]))
        ->mustRun()
        ->getOutput();
    expect([
        substr_count($text, 'INSERT INTO `far`.`away`'),
        substr_count($text, 'UPDATE `far`.`away`'),
        substr_count($text, 'DELETE FROM `far`.`away`'),
        substr_count($text, '`other`'),
    ])->toBe([250, 50, 19, 0]);
    // And as statements, whatever the server takes in one: the table of that name becomes what the other is.
    foreach ([1 << 24, 12_000] as $largest) {
        $server->exec(
            'CREATE DATABASE IF NOT EXISTS far',
            'DROP TABLE IF EXISTS far.away',
            'CREATE TABLE far.away (i INT PRIMARY KEY, v VARCHAR(300))',
            'BEGIN',
        );
        foreach (
            Kaiseki\Core\Database\RowEvents::statements(new LogReader(ArchiveFile::at("$logs/rows")->open()), $largest) as $statement
        ) {
            expect(strlen($statement))->toBeLessThanOrEqual($largest);
            $server->exec($statement);
        }
        $server->exec('COMMIT');
        expect($server->rows('CHECKSUM TABLE far.away')[0]['Checksum'])->toBe($server->rows('CHECKSUM TABLE a.t')[0]['Checksum']);
    }
    $server->stop();
});
