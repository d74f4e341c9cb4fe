<?php

declare(strict_types=1);

/*
 * Databases: logs indexed against mariadb-binlog's own reading of them, one table out of a dump against loading the dump,
 * a whole load and the way over a throw-away server against zcat | mariadb. All in the same run, on servers of its own and
 * an instance of its own (home var/bench).
 * --rows=N rows of the dump (default 400,000), --transactions=N in the logs (default 60,000).
 */

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Database\LogReader;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;
use Tests\Support\Mariadb;

require __DIR__.'/../../vendor/autoload.php';

/** @return array<string, string> */
$options = [];
foreach (array_slice($argv, 1) as $argument) {
    if (preg_match('/^--(\w+)=(\d+)$/', $argument, $m) === 1) {
        $options[$m[1]] = (int) $m[2];
    }
}
$rows = $options['rows'] ?? 400_000;
$transactions = $options['transactions'] ?? 60_000;
$folder = BenchTimes::begin('database');
mkdir("$folder/backup", 0700, true);
$time = function (callable $work): float {
    $began = hrtime(true);
    $work();

    return (hrtime(true) - $began) / 1e9;
};
$say = fn (string $what, float $ours, float $theirs, string $wanted): bool => printf(
    "%-52s %8.2f s  %8.2f s   %.2f (wanted %s)\n",
    $what,
    $ours,
    $theirs,
    $ours / $theirs,
    $wanted,
) > 0;
$server = new Mariadb("$folder/server");
$kaiseki = function (string ...$arguments): array {
    $process = new Process(
        [PHP_BINARY, __DIR__.'/../../bin/kaiseki', ...$arguments, '--json'],
        null,
        // Process hands on by itself only what was there when this began.
        array_intersect_key(getenv(), ['KAISEKI_HOME' => 1, 'KAISEKI_ONE_ACCOUNT' => 1]) + ['KAISEKI_SERVER_PASSWORD' => Mariadb::PASSWORD],
        null,
        null,
    );
    $process->run();
    if (! $process->isSuccessful()) {
        fwrite(STDERR, $process->getOutput().$process->getErrorOutput());
        exit(1);
    }

    return (array) json_decode($process->getOutput(), true);
};

printf("%-52s %10s  %10s\n", '', 'ours', 'the tool');
// Logs: many small transactions, and a few large ones.
$server->exec(
    'CREATE DATABASE bench',
    'USE bench',
    'CREATE TABLE sold (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, sailing INT, name VARCHAR(100), price DECIMAL(9,2), at DATETIME, '.
        'note VARCHAR(200))',
    'FLUSH BINARY LOGS',
);
$small = $server->position()[0];
$server->exec(
    'CREATE PROCEDURE fill (n INT) BEGIN DECLARE i INT DEFAULT 0; WHILE i < n DO INSERT INTO sold (sailing, name, price, at, note) '.
        "VALUES (i % 100, CONCAT('Name ', i), 12.5, NOW(), REPEAT('x', i % 60)); SET i = i + 1; END WHILE; END",
    "CALL fill($transactions)",
    'FLUSH BINARY LOGS',
);
$large = $server->position()[0];
for ($have = $transactions; $have < $rows; $have *= 2) {
    $server->exec(
        'INSERT INTO sold (sailing, name, price, at, note) SELECT sailing, name, price, at, note FROM sold LIMIT '.($rows - $have),
    );
}
$server->exec('FLUSH BINARY LOGS');
foreach (['small transactions' => $small, 'large transactions' => $large] as $what => $log) {
    $file = "$folder/server/$log";
    $ours = $time(function () use ($file): void {
        foreach ((new LogReader(ArchiveFile::at($file)->open()))->transactions() as $one) {
        }
    });
    $theirs = $time(function () use ($file): void {
        // What stands in the output must be read, too: transactions, and their rows by kind.
        $output = popen('mariadb-binlog --no-defaults --verify-binlog-checksum --verbose '.escapeshellarg($file), 'r') ?: exit(1);
        for ($counts = []; ($line = fgets($output)) !== false;) {
            $kind = match (true) {
                str_starts_with($line, '### INSERT'), str_starts_with($line, '### UPDATE'), str_starts_with($line, '### DELETE') => substr(
                    $line,
                    4,
                    6,
                ),
                str_contains($line, "\tGTID ") => 'GTID',
                default => '',
            };
            $counts[$kind] = ($counts[$kind] ?? 0) + 1;
        }
        pclose($output);
    });
    $say(sprintf('log of %s, %.0f MB, checksums verified', $what, filesize($file) / 1e6), $ours, $theirs, '0.33');
}
// Dump: one large table and a small one.
$server->exec('CREATE TABLE few (id INT PRIMARY KEY, t VARCHAR(20))', "INSERT INTO few SELECT seq, 'x' FROM seq_1_to_2000");
$name = 'bench-'.getmypid();
$kaiseki('server', 'add', $name, '--host=127.0.0.1', "--port={$server->port}", '--user=keeper');
$kaiseki('protect', $name, "--server=$name", '--level=full');
$server->exec("UPDATE few SET t = 'y' WHERE id < 10");
$gtid = $server->gtid();
$kaiseki('protect', $name, '--level=log');
$home = getenv('KAISEKI_HOME') ?: dirname(__DIR__, 2).'/var';
$dump = (glob("$home/stores/boathouse/$name/*.full.*.sql.gz") ?: [])[0];
$facts = json_decode((string) file_get_contents(substr($dump, 0, -7).'.set.json'), true);
$position = "{$facts['log_file']}:{$facts['log_position']}";
$plain = $time(function () use ($dump, $folder): void {
    $zcat = new Process(['zcat', $dump], null, null, null, null);
    $zcat->start();
    (new Process(
        ['mariadb', '--no-defaults', "--socket=$folder/server/s.sock", '--user=root'],
        null,
        null,
        (function () use ($zcat): iterable {
            yield "SET sql_log_bin = 0;\nCREATE DATABASE IF NOT EXISTS plain;\n";
            foreach ($zcat->getIterator(Process::ITER_SKIP_ERR) as $piece) {
                yield str_replace(['`bench`'], ['`plain`'], $piece);
            }
        })(),
        null,
    ))->mustRun();
});
$direct = $kaiseki('restore', $name, "--server=$name", "--position=$position", '--source-schema=bench', '--schema=direct')['seconds'];
$over = $kaiseki('restore', $name, "--server=$name", "--through=$gtid", '--source-schema=bench', '--schema=over')['seconds'];
$one = $kaiseki('restore', $name, "--server=$name", "--position=$position", '--tables=bench.few', '--schema=one')['seconds'];
$say(sprintf('whole dump, %s rows, straight, checked', number_format($rows)), $direct, $plain, '1.15');
$say('the same over a throw-away server, checked', $over, $plain, '2');
$say('one table of it', $one, $plain, '0.10');
printf("peak %d MiB\n", memory_get_peak_usage(true) >> 20);
$server->stop();
(new Process(['rm', '-rf', $folder]))->run();
