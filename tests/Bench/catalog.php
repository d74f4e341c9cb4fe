<?php

declare(strict_types=1);

// bin/bench catalog [--entries=1000000]: a catalog of that many entries: entries a second to adopt it (beside GNU tar listing
// the same archive), to make and rebuild it by its manifest, to read it back; then browse and find at that size.
// Starts an instance of its own (home var/bench).

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\DumpDir;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Catalog\ManifestLine;
use Kaiseki\Core\Catalog\Version;
use Random\Engine\Mt19937;
use Random\Randomizer;

require __DIR__.'/../../vendor/autoload.php';

$entries = 1_000_000;
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--entries=(\d+)$/', $option, $m) === 1) {
        $entries = (int) $m[1];
    }
}
$root = dirname(__DIR__, 2);
$home = "$root/var/bench";
$work = "$root/var/bench-work";
$socket = stream_socket_server('tcp://127.0.0.1:0');
$port = (int) substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
fclose($socket);
putenv("KAISEKI_HOME=$home");
putenv("KAISEKI_PORT=$port");
putenv('KAISEKI_ONE_ACCOUNT=1'); // it asks its database itself
exec(
    escapeshellarg("$root/bin/stop").
        " 2>&1; rm -rf $home/db $home/index $home/names $home/runs $home/stores $home/cache $work; mkdir -p $work/tree",
    $out,
);
exec(escapeshellarg("$root/bin/start").' --background --no-demo 2>&1', $out, $code);
$code === 0 || exit(fwrite(STDERR, implode("\n", $out)."\n"));
register_shutdown_function(fn () => exec(escapeshellarg("$root/bin/stop")));

/** Runs a program; seconds and peak memory in MiB. */
function timed(string ...$command): array
{
    $began = microtime(true);
    $pid = pcntl_fork();
    if ($pid === 0) {
        fclose(STDOUT);
        $null = fopen('/dev/null', 'wb');
        pcntl_exec($command[0], array_slice($command, 1), getenv());
        exit(127);
    }
    pcntl_waitpid($pid, $status, 0, $usage);
    pcntl_wexitstatus($status) === 0 || exit(fwrite(STDERR, implode(' ', $command).' ended with '.pcntl_wexitstatus($status)."\n"));

    return [microtime(true) - $began, $usage['ru_maxrss'] / 1024];
}

// Set after set, as a set of ours: a thousand folders, names of several words, small contents; one in twenty holds what another does.
$random = new Randomizer(new Mt19937(11));
$words = [
    'roster',
    'manifest',
    'engine',
    'notice',
    'fares',
    'berth',
    'crew',
    'sailing',
    'logbook',
    'ticket',
    'harbour',
    'drill',
    'moorings',
    'galley',
    'lost property',
    'Ærø',
    'tide',
];
$name = 'tree.full.20261001T020000Z';
$archive = fopen("$work/tree/$name.tar.gz", 'wb');
$manifest = fopen("$work/tree/$name.manifest.jsonl", 'wb');
$tar = new TarWriter(new GzipMemberWriter($archive, 262144, 1));
$folders = [];
$perFolder = 1000;
for ($i = 0; $i < $entries; $i++) {
    $folder = sprintf(
        '%s %02d/%s %03d',
        $words[intdiv($i, $perFolder * 40) % 17],
        intdiv($i, $perFolder * 40),
        $words[intdiv($i, $perFolder) % 17],
        intdiv($i, $perFolder),
    );
    $folders[$folder][] = sprintf(
        '%s %s %d.%s',
        $words[$random->getInt(0, 16)],
        $words[$random->getInt(0, 16)],
        $i,
        ['csv', 'txt', 'ods', 'pdf'][$i % 4],
    );
}
$tops = [];
foreach (array_keys($folders) as $folder) {
    $tops[dirname((string) $folder)][basename((string) $folder)] = 'D';
}
$put = function (string $path, EntryKind $kind, string $content, ?string $dumpDir = null) use ($tar, $manifest): void {
    $place = $tar->begin(
        $kind,
        "./$path",
        strlen($content),
        $kind === EntryKind::Folder ? 0755 : 0644,
        0,
        0,
        'root',
        'root',
        1_790_000_000_000_000_000,
        '',
        $dumpDir,
    );
    $tar->content($content);
    $digest = $kind === EntryKind::File ? sodium_crypto_generichash($content, '', 32) : null;
    fwrite(
        $manifest,
        (new ManifestLine(
            $path,
            new Version(
                $kind,
                strlen($content),
                1_790_000_000_000_000_000,
                $digest,
                $kind === EntryKind::Folder ? 0755 : 0644,
                0,
                0,
                'root',
                'root',
            ),
            true,
            $place,
        ))->json(),
    );
};
$put('', EntryKind::Folder, '', DumpDir::encode(array_fill_keys(array_keys($tops), 'D')));
foreach ($tops as $top => $names) {
    $put((string) $top, EntryKind::Folder, '', DumpDir::encode($names));
    foreach (array_keys($names) as $below) {
        $put("$top/$below", EntryKind::Folder, '', DumpDir::encode(array_fill_keys($folders["$top/$below"], 'Y')));
    }
}
foreach ($folders as $folder => $names) {
    foreach ($names as $n => $file) {
        $put("$folder/$file", EntryKind::File, $n % 20 === 0 ? 'the same' : "content of $file\n");
    }
}
$tar->end();
fclose($archive);
fclose($manifest);
$all = $entries + count($folders) + count($tops) + 1;
printf("%s entries, archive %.0f MiB\n", number_format($all), filesize("$work/tree/$name.tar.gz") / 1048576);
file_put_contents(
    "$work/tree/$name.set.json",
    json_encode([
        'format' => 'kaiseki set 1',
        'name' => $name,
        'level' => 'full',
        'base' => null,
        'history' => '1',
        'captured_at' => '2026-10-01T02:00:00Z',
        'bytes' => filesize("$work/tree/$name.tar.gz"),
        'blake2b_256' => bin2hex((string) Kaiseki\Core\Archive\ContentDigest::ofFile("$work/tree/$name.tar.gz")),
        'manifest_blake2b_256' => bin2hex((string) Kaiseki\Core\Archive\ContentDigest::ofFile("$work/tree/$name.manifest.jsonl")),
    ]),
);

$kaiseki = "$root/bin/kaiseki";
$rate = fn (string $what, float $seconds, string $more = ''): int => printf(
    "  %-44s %8.1f s  %9s entries a second%s\n",
    $what,
    $seconds,
    number_format($all / $seconds),
    $more,
);
[$seconds] = timed('/usr/bin/tar', '--list', '--verbose', '--file', "$work/tree/$name.tar.gz");
$rate('GNU tar lists it', $seconds);
timed(PHP_BINARY, $kaiseki, 'store-add', 'bench', $work);
[$seconds, $memory] = timed(PHP_BINARY, $kaiseki, 'catalog', 'rebuild', '--store=bench', '--read-archives');
$rate('adopt (read the archive, write the catalog)', $seconds, sprintf('  peak %.0f MiB  (wanted: 20,000)', $memory));
[$seconds, $memory] = timed(PHP_BINARY, $kaiseki, 'check', 'tree');
$rate('read back', $seconds, sprintf('  peak %.0f MiB', $memory));

$app = require "$root/bootstrap/app.php";
$app->make(Kernel::class)->bootstrap();
$set = BackupSet::query()->firstOrFail();
$reader = new CatalogReader;
/** @param  list<float>  $times */
$spread = function (string $what, array $times, string $wanted): void {
    sort($times);
    printf(
        "  %-44s p50 %7.1f ms  p95 %7.1f ms  (wanted: p95 under %s)\n",
        $what,
        1000 * $times[intdiv(count($times), 2)],
        1000 * $times[(int) (count($times) * 0.95)],
        $wanted,
    );
};
$times = [];
$paths = array_keys($folders);
for ($i = 0; $i < 200; $i++) {
    $folder = $i % 10 === 0 ? '' : (string) $paths[$random->getInt(0, count($paths) - 1)];
    $began = microtime(true);
    $reader->children($set, $folder, 300, 0);
    $reader->countChildren($set, $folder);
    $reader->total($set, $folder);
    $times[] = microtime(true) - $began;
}
$spread('browse a folder', $times, '50 ms');
$times = [];
for ($i = 0; $i < 60; $i++) {
    $pattern = [
        $words[$random->getInt(0, 16)].' '.$random->getInt(0, $entries),
        '*'.$random->getInt(0, $entries).'.csv',
        (string) $random->getInt(1000, $entries),
        'no such thing '.$i,
        substr($words[$random->getInt(0, 16)], 1),
    ][$i % 5];
    $began = microtime(true);
    (new App\Trees\Catalog\CatalogSearch)->find(Workload::query()->sole(), new App\Trees\Catalog\SearchQuery(name: $pattern), 300);
    $times[] = microtime(true) - $began;
}
$spread('find by name', $times, '300 ms');

foreach (['signs', 'checks', 'copies', 'sets', 'histories', 'workloads'] as $table) {
    DB::table($table)->delete();
}
foreach (['versions', 'paths', 'folder_totals'] as $table) {
    DB::statement("TRUNCATE TABLE $table");
}
[$seconds, $memory] = timed(PHP_BINARY, $kaiseki, 'catalog', 'rebuild', '--store=bench');
$rate('rebuild by its manifest', $seconds, sprintf('  peak %.0f MiB', $memory));
