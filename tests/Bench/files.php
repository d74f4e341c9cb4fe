<?php

declare(strict_types=1);

// bin/bench files [--small=N]: Kaiseki beside GNU tar and setfacl, in the same run, on generated trees.
// Starts an instance of its own (home var/bench), and prints seconds, ratios and peak memory.

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\BenchTimes;

require __DIR__.'/../../vendor/autoload.php';

$small = 100_000;
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--small=(\d+)$/', $option, $m) === 1) {
        $small = (int) $m[1];
    }
}
$root = dirname(__DIR__, 2);

function make(string $tree, int $files, int $bytes, Randomizer $random): void
{
    $words = array_map(fn (): string => bin2hex($random->getBytes($random->getInt(2, 6))), range(1, 4000));
    for ($i = 0; $i < $files; $i++) {
        $folder = sprintf('%s/d%02d/e%02d', $tree, $i % 40, intdiv($i, 40) % 25);
        if (! is_dir($folder)) {
            mkdir($folder, 0755, true);
        }
        $size = $random->getInt(intdiv($bytes, 10), ($bytes * 19) / 10);
        $text = '';
        while (strlen($text) < $size) {
            $text .= $words[$random->getInt(0, 3999)].' '.$words[$random->getInt(0, 3999)]."\n";
        }
        file_put_contents("$folder/file$i.txt", substr($text, 0, $size));
    }
}

function change(string $tree, int $files, int $night, Randomizer $random): void
{
    for ($i = 0; $i < $files / 100; $i++) {
        $n = $random->getInt(0, $files - 1);
        file_put_contents(sprintf('%s/d%02d/e%02d/file%d.txt', $tree, $n % 40, intdiv($n, 40) % 25, $n), "night $night\n", FILE_APPEND);
    }
}

$work = BenchTimes::begin('files');
$home = (string) getenv('KAISEKI_HOME');
$port = (int) getenv('KAISEKI_PORT');
exec(
    'KAISEKI_USER_PASSWORD=tide-table-9 '.PHP_BINARY.' '.escapeshellarg("$root/artisan").' kaiseki:user bench@sorrelsound.example',
);

foreach (
    [['8,000 files, 250 MB', 8000, 31_250], [number_format($small).' small files', $small, 1_000]] as $number => [$title, $files, $size]
) {
    echo "$title\n";
    $random = new Randomizer(new Mt19937($number + 1));
    $tree = "$work/src$number/tree";
    make($tree, $files, $size, $random);
    $archives = "$work/adopt$number";
    mkdir($archives);
    BenchTimes::kaiseki('store-add', "own$number", "$work/own$number");

    [$theirs] = BenchTimes::timed('/usr/bin/tar', '-czf', "$work/plain.tar.gz", '-C', dirname($tree), 'tree');
    [$ours, $memory] = BenchTimes::kaiseki('protect', "own$number", "--source=$tree", '--level=full', "--store=own$number");
    BenchTimes::say('make a full and catalog it, beside tar cz', $ours, $theirs, $memory);

    $chain = [];
    for ($night = 0; $night <= 6; $night++) {
        if ($night > 0) {
            sleep(1);
            change($tree, $files, $night, $random);
            BenchTimes::kaiseki('protect', "own$number", '--level=incr', "--store=own$number");
        }
        $chain[] = $archive = sprintf('%s/tree.%s.202610%02dT020000Z.tar.gz', $archives, $night === 0 ? 'full' : 'incr', $night + 1);
        BenchTimes::timed(
            '/usr/bin/tar',
            '-czf',
            $archive,
            '--format=posix',
            "--listed-incremental=$work/$number.snar",
            '-C',
            dirname($tree),
            'tree',
        );
    }
    [$ours, $memory] = BenchTimes::kaiseki('adopt', $archives, "--as=adopted$number", '--kind=files');
    $scan = 0.0;
    foreach ($chain as $archive) {
        $scan += BenchTimes::timed('/usr/bin/tar', '-tzf', $archive)[0];
    }
    BenchTimes::say('adopt a full and six increments, beside tar tz of each', $ours, $scan, $memory);

    $replay = [];
    $restores = ['own' => [], 'adopted' => []];
    $peak = ['own' => 0.0, 'adopted' => 0.0];
    foreach ([1, 2, 3] as $round) {
        // Nothing is deleted between: making files right after deleting thousands slows everything on ext4.
        mkdir("$work/replay$number-$round");
        $seconds = 0.0;
        foreach ($chain as $archive) {
            $seconds += BenchTimes::timed(
                '/usr/bin/tar',
                '-xzpf',
                $archive,
                '--listed-incremental=/dev/null',
                '-C',
                "$work/replay$number-$round",
            )[0];
        }
        $replay[] = $seconds;
        exec('sync');
        foreach (array_keys($restores) as $kind) {
            [$seconds, $memory] = BenchTimes::kaiseki(
                'restore',
                "$kind$number",
                '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60),
                '--path=/',
                "--to=$work/out$number-$kind-$round",
            );
            $restores[$kind][] = $seconds;
            $peak[$kind] = max($peak[$kind], $memory);
            exec('sync');
        }
    }
    foreach ([...array_keys($restores)] as $kind) {
        sort($restores[$kind]);
    }
    sort($replay);
    BenchTimes::say('restore the whole point, checked, from our sets, beside tar x', $restores['own'][1], $replay[1], $peak['own']);
    BenchTimes::say('restore the whole point, checked, adopted, beside tar x', $restores['adopted'][1], $replay[1], $peak['adopted']);

    // Permissions alone, of a tree that somebody flattened, each looked at again.
    $flattened = "$work/out$number-own-3";
    [$listing] = BenchTimes::timed('/usr/bin/sh', '-c', 'cd "$1" && getfacl -R . >"$2"', 'sh', $flattened, "$work/kept$number.acl");
    BenchTimes::timed('/usr/bin/chmod', '-R', 'a+rwx', $flattened);
    [$theirs] = BenchTimes::timed('/usr/bin/sh', '-c', 'cd "$1" && setfacl --restore="$2"', 'sh', $flattened, "$work/kept$number.acl");
    BenchTimes::timed('/usr/bin/chmod', '-R', 'a+rwx', $flattened);
    [$ours, $memory] = BenchTimes::kaiseki(
        'restore', "own$number", '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--path=/', "--to=$flattened", '--only-permissions',
    );
    BenchTimes::say('permissions alone, looked at again, beside getfacl -R and setfacl --restore', $ours, $listing + $theirs, $memory);

    // One file, warm, through the application: signed in once, then asked for.
    $jar = "$work/cookies";
    $curl = curl_init();
    curl_setopt_array($curl, [
        CURLOPT_COOKIEFILE => $jar,
        CURLOPT_COOKIEJAR => $jar,
        CURLOPT_RETURNTRANSFER => true,
        CURLOPT_URL => "http://127.0.0.1:$port/sign-in",
    ]);
    preg_match('/name="_token" value="([^"]+)"/', (string) curl_exec($curl), $m);
    curl_setopt_array($curl, [
        CURLOPT_POSTFIELDS => http_build_query([
            '_token' => $m[1] ?? '',
            'email' => 'bench@sorrelsound.example',
            'password' => 'tide-table-9',
        ]),
    ]);
    curl_exec($curl);
    curl_setopt_array($curl, [CURLOPT_HTTPGET => true]);
    $pdo = new PDO("mysql:unix_socket=$home/sql/db.sock;dbname=kaiseki", posix_getpwuid(posix_geteuid())['name'], '');
    foreach (['own' => 'our gzip members', 'adopted' => 'one single gzip member'] as $kind => $words) {
        $set = (int) $pdo
            ->query("SELECT MAX(s.id) FROM sets s JOIN workloads w ON w.id = s.workload_id WHERE w.name = '$kind$number'")
            ->fetchColumn();
        $times = $scans = [];
        for ($i = 0; $i < 11; $i++) {
            $n = $random->getInt(0, $files - 1);
            $path = ($kind === 'own' ? '' : 'tree/').sprintf('d%02d/e%02d/file%d.txt', $n % 40, intdiv($n, 40) % 25, $n);
            curl_setopt($curl, CURLOPT_URL, "http://127.0.0.1:$port/sets/$set/file?path=".rawurlencode($path));
            $began = microtime(true);
            $content = curl_exec($curl);
            $times[] = microtime(true) - $began;
            if ($content !== file_get_contents("$work/src$number/".($kind === 'own' ? 'tree/' : '').$path)) {
                fwrite(STDERR, "What came back for $path is not what is there.\n");
                exit(1);
            }
            if ($i < 3) {
                $scans[] = BenchTimes::timed(
                    '/usr/bin/tar',
                    '-xzf',
                    $chain[0],
                    '-C',
                    $work,
                    sprintf('tree/d%02d/e%02d/file%d.txt', $n % 40, intdiv($n, 40) % 25, $n),
                )[0];
            }
        }
        sort($times);
        sort($scans);
        printf(
            "  %-58s %7.1f ms beside %7.2f s  %5.1f times as fast\n",
            "one file through the application, from $words",
            $times[5] * 1000,
            $scans[1],
            $scans[1] / $times[5],
        );
    }
}
exec('rm -rf '.escapeshellarg($work));
