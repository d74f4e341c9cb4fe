<?php

declare(strict_types=1);

use Tests\Support\Mariadb;

/*
 * Random transactions on random tables. The oracle is the server itself, asked after each commit: its whole state then is
 * what a restore to that commit must give.
 */

/** @return list<string> the statements of one transaction */
function randomTransaction(): array
{
    $tables = ['people', 'things', 'loose', 'kinds'];
    $statements = [];
    for ($n = mt_rand(1, 4); $n > 0; $n--) {
        $id = mt_rand(1, 60);
        $statements[] = match ($tables[mt_rand(0, 3)]) {
            'people' => match (mt_rand(0, 3)) {
                0, 1 => 'INSERT INTO people (name, born, note) VALUES '.
                    implode(
                        ',',
                        array_map(
                            fn (): string => "('".
                                str_repeat(['a', 'é', '🚢', "''"][mt_rand(0, 3)], mt_rand(0, 40)).
                                "', '19".
                                mt_rand(10, 99).
                                '-0'.
                                mt_rand(1, 9).
                                "-11', ".
                                (mt_rand(0, 3) === 0 ? 'NULL' : "x'".bin2hex(str_repeat(chr(mt_rand(0, 255)), mt_rand(0, 300)))."'").
                                ')',
                            range(1, mt_rand(1, 5)),
                        ),
                    ),
                2 => "UPDATE people SET name = CONCAT(LEFT(name, 3), '$id') WHERE id % 7 = ".mt_rand(0, 6),
                default => "DELETE FROM people WHERE id = $id",
            },
            'things' => match (mt_rand(0, 2)) {
                0 => "REPLACE INTO things VALUES ('k".
                    mt_rand(1, 30).
                    "', ".
                    mt_rand(0, 5).
                    ', '.
                    mt_rand(-9999, 9999) / 100 .
                    ", b'".
                    decbin(mt_rand(0, 511)).
                    "', '".
                    ['red', 'blue'][mt_rand(0, 1)].
                    "', ".
                    (mt_rand(0, 1) ? "'x,z'" : 'NULL').
                    ", '{\"n\": $id}', POINT(".
                    mt_rand(0, 9).
                    ','.
                    mt_rand(0, 9).
                    "), '12:00:0".
                    mt_rand(0, 9).
                    ".25', 20".
                    mt_rand(10, 60).
                    ')',
                1 => 'UPDATE things SET amount = amount * 2 WHERE part = '.mt_rand(0, 5),
                default => 'DELETE FROM things WHERE part = '.mt_rand(0, 5).' LIMIT 2',
            },
            'loose' => mt_rand(0, 2) > 0
                ? "INSERT INTO loose (a, b) VALUES ($id, '".str_repeat('w', mt_rand(0, 500))."')"
                : "DELETE FROM loose WHERE a = $id",
            default => "INSERT INTO other.kinds (k) VALUES ('".uniqid('', true)."')",
        };
    }

    return $statements;
}

it('gives by a restore to any commit what was there at that commit', function (int $seed): void {
    mt_srand($seed);
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE shop',
        'CREATE DATABASE other',
        'CREATE TABLE other.kinds (id INT AUTO_INCREMENT PRIMARY KEY, k VARCHAR(60))',
        'USE shop',
        "SET sql_mode = ''",
        'CREATE TABLE people (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, name VARCHAR(300), born DATE, note MEDIUMBLOB, seen '.
            'TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))',
        "CREATE TABLE things (k VARCHAR(20), part INT, amount DECIMAL(30,9), bits BIT(9), colour ENUM('red', 'blue'), marks SET('x', ".
            "'y', 'z'), j JSON, p POINT, t TIME(2), y YEAR, PRIMARY KEY (k, part), UNIQUE (part, k))",
        'CREATE TABLE loose (a INT, b VARCHAR(600))',
        "INSERT INTO people (name, born) VALUES ('first', '0000-00-00')",
    );
    $server->addTo($this, 'shop');
    $backup = $this->scratch()->folder('backup');
    $server->dump("$backup/shop.sql", ...$seed % 2 === 0 ? ['shop'] : ['--databases', 'shop', 'other']);
    $shadow = [];
    for ($i = 0; $i < 60; $i++) {
        $server->exec('BEGIN', ...[...randomTransaction(), 'COMMIT']);
        if (mt_rand(0, 14) === 0) {
            $server->exec(
                [
                    "ALTER TABLE loose ADD c$i INT DEFAULT $i",
                    'TRUNCATE TABLE loose',
                    "CREATE TABLE made$i (id INT PRIMARY KEY) SELECT id FROM people",
                    'FLUSH BINARY LOGS',
                    'RENAME TABLE loose TO loose_, loose_ TO loose',
                ][mt_rand(0, 4)],
            );
        }
        $shadow[$server->gtid()] = [$server->state('shop'), $server->position()];
    }
    $server->copyLogs($backup);
    foreach (glob("$backup/binlog.*") ?: [] as $n => $log) {
        if ($n % 2 === 1) {
            file_put_contents("$log.gz", gzencode((string) file_get_contents($log)));
            unlink($log);
        }
    }
    expect($this->kaiseki('adopt', $backup, '--as=shop', '--kind=database', '--json')->json()['refused'])->toBe([]);
    foreach ((array) array_rand($shadow, 6) as $n => $gtid) {
        [$state, [$file, $position]] = $shadow[$gtid];
        $answer = $this->kaiseki(
            'restore',
            'shop',
            $n % 2 === 0 ? "--through=$gtid" : "--position=$file:$position",
            '--server=shop',
            '--source-schema=shop',
            "--schema=at$n",
            '--json',
        );
        expect($answer->code)->toBe(0, $answer->text)->and($server->state("at$n"))->toEqual($state);
    }
    $server->stop();
})->with(deeper([11, 12, 13, 14]));

/**
 * The rule of row rescue, slowly: what a table must be after the rows of one transaction came back.
 *
 * @param  array<string, array<string, mixed>>  $before  key => row
 * @param  array<string, array<string, mixed>>  $after
 * @param  array<string, array<string, mixed>>  $live
 * @return array{array<string, array<string, mixed>>, int} the table, and how many rows are in conflict
 */
function rescued(array $before, array $after, array $live, bool $reverse): array
{
    $conflicts = 0;
    foreach (array_keys($before + $after) as $key) {
        [$b, $a, $l] = [$before[$key] ?? null, $after[$key] ?? null, $live[$key] ?? null];
        if ($b === $a || ($b === null && ! $reverse) || $l === $b) {
            continue;
        }
        if ($l !== $a) {
            $conflicts++;
        } elseif ($b === null) {
            unset($live[$key]);
        } else {
            $live[$key] = $b;
        }
    }
    ksort($live);

    return [$live, $conflicts];
}

it('brings rows back as the rule says, whatever was done to them since', function (int $seed): void {
    mt_srand($seed);
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE shop',
        'USE shop',
        'CREATE TABLE people (id INT PRIMARY KEY, name VARCHAR(50) CHARACTER SET utf8mb4, weight FLOAT, photo BLOB, born DATE, half INT '.
            'AS (id / 2) VIRTUAL)',
        'CREATE TABLE seats (deck CHAR(3), seat INT, holder INT, PRIMARY KEY (deck, seat))',
    );
    $name = fn (): string => "'".['ä', 'b', '🚢', "''", 'B'][mt_rand(0, 4)].mt_rand(0, 3)."'";
    $change = fn (): string => match (mt_rand(0, 6)) {
        0 => 'INSERT IGNORE INTO people (id, name, weight, photo, born) VALUES '.
            implode(
                ',',
                array_map(
                    fn (): string => '('.
                        mt_rand(1, 40).
                        ", {$name()}, ".
                        mt_rand(0, 10000) / 7 .
                        ", x'".
                        bin2hex(chr(mt_rand(0, 255))).
                        "', '2026-0".
                        mt_rand(1, 9).
                        "-01')",
                    range(1, 6),
                ),
            ),
        1 => 'UPDATE people SET name = '.$name().', weight = weight * 1.1 WHERE id % 5 = '.mt_rand(0, 4),
        2 => 'DELETE FROM people WHERE id % 9 = '.mt_rand(0, 8),
        3 => 'UPDATE IGNORE people SET id = id + 40 WHERE id = '.mt_rand(1, 40),
        4 => "REPLACE INTO seats VALUES ('A".mt_rand(0, 3)."', ".mt_rand(1, 8).', '.mt_rand(1, 99).')',
        5 => 'UPDATE seats SET holder = holder + 1 WHERE seat = '.mt_rand(1, 8),
        default => 'DELETE FROM seats WHERE deck = \'A'.mt_rand(0, 3)."' LIMIT 3",
    };
    $backup = $this->scratch()->folder('backup');
    $server->addTo($this, 'shop');
    $transaction = fn () => $server->exec('BEGIN', ...[...array_map(fn (): string => $change(), range(1, mt_rand(1, 6))), 'COMMIT']);
    for ($i = 0; $i < 8; $i++) {
        $transaction();
    }
    $server->dump("$backup/shop.sql", 'shop');
    $keyed = function () use ($server): array {
        $tables = [];
        foreach (['people' => 'LPAD(id, 5, 0)', 'seats' => "CONCAT(deck, '/', seat)"] as $table => $key) {
            $tables[$table] = array_map(
                fn (array $row): array => $row,
                array_column(
                    $server->rows(
                        "SELECT $key AS k, t.*".
                            ($table === 'people' ? ', CAST(weight AS DOUBLE) AS exact' : '').
                            " FROM shop.$table t ORDER BY 1",
                    ),
                    null,
                    'k',
                ),
            );
        }

        return $tables;
    };
    $states = [];
    for ($i = 0; $i < 14; $i++) {
        $before = $keyed();
        $transaction();
        $states[] = [$server->gtid(), $before, $keyed()];
    }
    $server->copyLogs($backup);
    $this->kaiseki('adopt', $backup, '--as=shop', '--kind=database');
    foreach ((array) array_rand($states, 4) as $n => $which) {
        [$gtid, $before, $after] = $states[$which];
        $live = $keyed();
        $reverse = $n % 2 === 0;
        $answer = $this->kaiseki('restore', 'shop', ($reverse ? '--reverse=' : '--rows-of=').$gtid, '--server=shop', '--json');
        $conflicts = 0;
        $is = $keyed();
        foreach (['people', 'seats'] as $table) {
            [$wanted, $count] = rescued($before[$table], $after[$table], $live[$table], $reverse);
            expect($is[$table])->toEqual($wanted, $answer->text);
            $conflicts += $count;
        }
        expect($answer->code)
            ->toBe($conflicts === 0 ? 0 : 4, $answer->text)
            ->and(count($answer->json()['conflicts']))
            ->toBe($conflicts);
        if (($answer->json()['rows'] ?? 0) > 0) {
            expect($this->kaiseki('put-back', (string) $answer->json()['run'])->code)->toBe(0)->and($keyed())->toEqual($live);
        }
    }
    $server->stop();
})->with(deeper([21, 22, 23, 24, 25], 2));

/** @return int rows of parts and orders that point at nothing */
function pointingAtNothing(array $state): int
{
    $count = 0;
    foreach ([['orders', 'person', 'people'], ['parts', 'ord', 'orders']] as [$table, $column, $into]) {
        $there = array_fill_keys(array_column($state[$into], 'id'), true);
        $count += count(array_filter($state[$table], fn (array $row): bool => $row[$column] !== null && ! isset($there[$row[$column]])));
    }

    return $count;
}

it('gives by every way what the shadow says, with cascading keys, triggers, and columns that set themselves', function (int $seed): void {
    mt_srand($seed);
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE shop',
        'USE shop',
        'CREATE TABLE people (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40), balance DECIMAL(10,2), seen DATETIME(3) DEFAULT '.
            'CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3))',
        'CREATE TABLE orders (id INT AUTO_INCREMENT PRIMARY KEY, person INT NULL, n INT NOT NULL DEFAULT 0, FOREIGN KEY (person) '.
            'REFERENCES people (id) ON DELETE SET NULL ON UPDATE CASCADE)',
        'CREATE TABLE parts (ord INT, n INT, t VARCHAR(30), bits BIT(3), PRIMARY KEY (ord, n), FOREIGN KEY (ord) REFERENCES orders (id) '.
            'ON DELETE CASCADE)',
        'CREATE TRIGGER counted AFTER INSERT ON parts FOR EACH ROW UPDATE orders SET n = n + 1 WHERE id = NEW.ord',
        'CREATE TRIGGER loud BEFORE UPDATE ON people FOR EACH ROW SET NEW.balance = NEW.balance + 0.01',
        "INSERT INTO people (name, balance) SELECT CONCAT('p', seq), seq FROM seq_1_to_20",
        'INSERT INTO orders (person) SELECT seq FROM seq_1_to_20',
        "INSERT INTO parts SELECT seq, 1, 'a', b'1' FROM seq_1_to_20",
    );
    $server->addTo($this, 'shop');
    $backup = $this->scratch()->folder('backup');
    $server->dump("$backup/shop.sql", 'shop');
    $number = fn (int $from, int $to): int => mt_rand($from, $to);
    $statement = fn (): string => match (mt_rand(0, 9)) {
        0 => "INSERT INTO people (name, balance) VALUES ('n{$number(1, 99)}', 1)",
        1 => "UPDATE people SET balance = balance * 2 WHERE id % 5 = {$number(0, 4)}",
        2 => "DELETE FROM people WHERE id = {$number(1, 25)}",
        3 => "UPDATE IGNORE people SET id = id + 100 WHERE id = {$number(1, 25)}",
        4 => "INSERT INTO orders (person) SELECT id FROM people WHERE id % 4 = {$number(0, 3)} LIMIT 4",
        5 => "DELETE FROM orders WHERE id = {$number(1, 30)}",
        6 => "INSERT IGNORE INTO parts SELECT seq, {$number(1, 3)}, 't{$number(1, 9)}', b'{$number(
            0,
            1,
        )}' FROM seq_1_to_40 WHERE seq % 6 = {$number(0, 5)}",
        7 => "UPDATE parts p JOIN orders o ON o.id = p.ord SET p.t = 'u{$number(1, 9)}', o.n = o.n + 10 WHERE o.id % 7 = {$number(0, 6)}",
        8 => "DELETE p FROM parts p WHERE n = {$number(1, 3)} AND ord % 5 = {$number(0, 4)}",
        default => "UPDATE people SET name = 'm{$number(1, 99)}' WHERE id % 3 = {$number(0, 2)}",
    };
    $states = [];
    while (count($states) < 30) {
        $before = $server->state('shop');
        $last = $server->gtid();
        $server->exec(
            'BEGIN',
            ...[...array_map(fn (): string => $statement(), range(1, mt_rand(1, 4))), mt_rand(0, 9) === 0 ? 'ROLLBACK' : 'COMMIT'],
        );
        if ($server->gtid() !== $last) {
            $states[$server->gtid()] = [$before, $server->state('shop')];
        }
        if (mt_rand(0, 9) === 0) {
            $server->exec('FLUSH BINARY LOGS');
        }
    }
    $server->copyLogs($backup);
    $this->kaiseki('adopt', $backup, '--as=shop', '--kind=database');
    $now = $server->state('shop');
    $restore = fn (string ...$how): Tests\Support\Answer => $this->kaiseki('restore', 'shop', '--server=shop', '--json', ...$how);
    $back = fn (Tests\Support\Answer $answer) => expect($this->kaiseki('put-back', (string) $answer->json()['run'])->code)
        ->toBe(0)
        ->and($server->state('shop'))
        ->toEqual($now);
    // In place, tables in place, beside, and without one of them.
    [$first, $second] = (array) array_rand($states, 2);
    $answer = $restore("--through=$first", '--in-place');
    expect($answer->code)->toBe(0, $answer->text)->and($server->state('shop'))->toEqual($states[$first][1]);
    $back($answer);
    $answer = $restore("--before=$second", '--tables=parts', '--schema=beside');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($server->state('beside'))
        ->toEqual(['parts' => $states[$second][0]['parts']]);
    // By rows.
    $keyed = fn (array $state): array => array_map(
        fn (array $rows, string $table): array => array_column(
            array_map(fn (array $row): array => ['key' => $table === 'parts' ? "{$row['ord']}/{$row['n']}" : $row['id']] + $row, $rows),
            null,
            'key',
        ),
        $state,
        array_keys($state),
    );
    foreach ((array) array_rand($states, 3) as $i => $gtid) {
        $reverse = $i % 2 === 0;
        $wanted = $now;
        $conflicts = 0;
        [$before, $after, $live] = [$keyed($states[$gtid][0]), $keyed($states[$gtid][1]), $keyed($now)];
        foreach (array_keys($now) as $n => $table) {
            [$rows, $count] = rescued($before[$n], $after[$n], $live[$n], $reverse);
            $wanted[$table] = array_values(array_map(fn (array $row): array => array_diff_key($row, ['key' => true]), $rows));
            $conflicts += $count;
        }
        $sorted = fn (array $state): array => array_map(function (array $rows): array {
            $text = array_map(serialize(...), $rows);
            sort($text);

            return $text;
        }, $state);
        $answer = $restore(($reverse ? '--reverse=' : '--rows-of=').$gtid);
        if (pointingAtNothing($wanted) > pointingAtNothing($now)) {
            expect($answer->code)
                ->toBe(4)
                ->and($answer->json()['error'])
                ->toContain('would point at nothing')
                ->and($server->state('shop'))
                ->toEqual($now);

            continue;
        }
        expect($sorted($server->state('shop')))
            ->toEqual($sorted($wanted), $answer->text)
            ->and($answer->code)
            ->toBe($conflicts === 0 ? 0 : 4, $answer->text);
        if (($answer->json()['rows'] ?? 0) > 0) {
            $back($answer);
        }
    }
    $server->stop();
})->with(deeper([31, 32, 33]));
