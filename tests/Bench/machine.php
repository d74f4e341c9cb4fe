<?php

declare(strict_types=1);

// bin/bench machine [--gib=20] [--used=2]: a disk of so many GiB with so many GiB used, and a chain over it: what each costs beside
// qemu-img convert followed by b2sum of what it wrote, in the same run. Starts an instance of its own (home var/bench).

use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;

require __DIR__.'/../../vendor/autoload.php';

$options = ['gib' => 20, 'used' => 2];
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--(gib|used)=(\d+)$/', $option, $m) === 1) {
        $options[$m[1]] = (int) $m[2];
    }
}
$work = BenchTimes::begin('machine');
$random = new Randomizer(new Mt19937(5));
$size = $options['gib'] << 30;
$now = "$work/now.raw";

/** Writes areas of random bytes all over the disk, in runs of a megabyte or of a block. */
function scribble(string $raw, int $size, int $bytes, int $run, Randomizer $random): void
{
    $file = fopen($raw, 'c+b');
    ftruncate($file, $size);
    $piece = $random->getBytes(min($run, 1 << 20));
    for ($done = 0; $done < $bytes; $done += $run) {
        fseek($file, $random->getInt(0, intdiv($size, $run) - 1) * $run);
        fwrite($file, substr_replace($piece, pack('J', $random->getInt(0, PHP_INT_MAX)), $random->getInt(0, 1000), 8));
    }
    fclose($file);
}

foreach (['short' => 3, 'long' => 60] as $kind => $length) {
    @unlink($now);
    scribble($now, $size, $options['used'] << 30, 1 << 20, $random);
    $folder = "$work/$kind";
    mkdir($folder);
    $image = fn (int $i): string => sprintf(
        'm.disk.%s.2026%02d%02dT020000Z.qcow2',
        $i === 0 ? 'full' : 'incr',
        9 + intdiv($i, 28),
        1 + ($i % 28),
    );
    BenchTimes::timed('/usr/bin/qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $now, "$folder/{$image(0)}");
    for ($i = 1; $i <= $length; $i++) {
        // The same bytes over the whole chain, whatever its length.
        $each = intdiv($options['used'] << 30, 10 * $length);
        $writes = [];
        for ($done = 0; $done < $each; $done += 1 << 18) {
            array_push(
                $writes,
                '-c',
                sprintf('write -P %d %d %d', 1 + (($i + $done) % 255), $random->getInt(0, ($size >> 18) - 1) << 18, 1 << 18),
            );
        }
        chdir($folder);
        BenchTimes::timed('/usr/bin/qemu-img', 'create', '-q', '-f', 'qcow2', '-b', $image($i - 1), '-F', 'qcow2', $image($i));
        foreach (array_chunk($writes, 2000) as $some) {
            BenchTimes::timed('/usr/bin/qemu-io', '-f', 'qcow2', ...[...$some, $image($i)]);
        }
    }
    echo "$length increments over a full of {$options['gib']} GiB, {$options['used']} GiB used\n";
    [$ours, $memory] = BenchTimes::kaiseki('adopt', $folder, "--as=$kind", '--kind=machine');
    $theirs = 0.0;
    foreach (glob("$folder/*.qcow2") ?: [] as $file) {
        $theirs += BenchTimes::timed('/usr/bin/b2sum', '--length=256', $file)[0];
    }
    BenchTimes::say('take it in, beside b2sum of each image', $ours, $theirs, $memory);
    exec('sync');
    $convert = BenchTimes::timed(
        '/usr/bin/qemu-img',
        'convert',
        '-f',
        'qcow2',
        '-O',
        'raw',
        "$folder/{$image($length)}",
        "$work/theirs.raw",
    )[0];
    $digest = BenchTimes::timed('/usr/bin/b2sum', '--length=256', "$work/theirs.raw")[0];
    exec('sync');
    [$ours, $memory] = BenchTimes::kaiseki('restore', $kind, '--at='.gmdate('Y-m-d\TH:i:s\Z'), "--to=$work/out-$kind");
    BenchTimes::say('the newest point as raw, beside convert and b2sum', $ours, $convert + $digest, $memory);
    printf("    of which convert %.2f s, b2sum %.2f s\n", $convert, $digest);
    exec('cmp '.escapeshellarg("$work/theirs.raw").' '.escapeshellarg("$work/out-$kind/$kind.disk.raw"), $out, $code);
    $code === 0 || exit(fwrite(STDERR, "What came back is not what qemu-img has.\n"));
    array_map(unlink(...), ["$work/theirs.raw", "$work/out-$kind/$kind.disk.raw"]);
}

// At a hypervisor: the machine as a whole; a set of it; and a twentieth of what is used written over, and rolled back by what is marked.
$vm = "$work/vm";
mkdir($vm);
file_put_contents("$vm/host.json", json_encode(['memory_mib' => 1024, 'slots' => 2, 'storages' => ['fast' => 1 << 42], 'networks' => []]));
// As the account that the instance's commands run as: what is written then is not of another's.
$account = posix_getuid() === 0 ? (posix_getpwnam('kaiseki') ?: exit(fwrite(STDERR, "There is no account kaiseki.\n"))) : null;
$account === null || exec('chown -R kaiseki: '.escapeshellarg($vm));
$as = $account === null ? [] : ['setpriv', "--reuid={$account['uid']}", "--regid={$account['gid']}", '--clear-groups', '--'];
$peer = (string) ($account['uid'] ?? posix_getuid());
$hypervisor = new Process([...$as, PHP_BINARY, dirname(__DIR__, 2).'/bin/hypervisor-process', $vm, $peer]);
$hypervisor->setTimeout(null);
$hypervisor->start();
while (! file_exists("$vm/api.sock") && $hypervisor->isRunning()) {
    usleep(10_000);
}
echo "At a hypervisor, {$options['gib']} GiB, {$options['used']} GiB used\n";
BenchTimes::kaiseki('hypervisor', 'add', 'bench', "--folder=$vm");
chdir("$work/short");
$newest = basename((glob('*.incr.*') ?: [])[2] ?? '');
$convert = BenchTimes::timed('/usr/bin/qemu-img', 'convert', '-f', 'qcow2', '-O', 'qcow2', $newest, "$work/theirs.qcow2")[0];
exec('sync');
$at = fn (): string => '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 1);
[$ours, $memory] = BenchTimes::kaiseki('restore', 'short', $at(), '--whole', '--on=bench', '--storage=fast');
BenchTimes::say('whole, every block read again, beside convert', $ours, $convert, $memory);
BenchTimes::kaiseki('machine', 'known', 'short', '--as=short');
[$ours, $memory] = BenchTimes::kaiseki('protect', 'short', '--level=incr');
BenchTimes::say('a set by comparing, beside convert', $ours, $convert, $memory);
[$image] = glob("$vm/storages/fast/short*.disk.qcow2");
$writes = [];
for ($done = 0; $done < intdiv($options['used'] << 30, 20); $done += 1 << 18) {
    array_push($writes, '-c', sprintf('write -P %d %d %d', $done % 251 + 1, $random->getInt(0, ($size >> 18) - 1) << 18, 1 << 18));
}
foreach (array_chunk($writes, 2000) as $some) {
    BenchTimes::timed('/usr/bin/qemu-io', '-f', 'qcow2', ...[...$some, $image]);
}
[$ours, $memory] = BenchTimes::kaiseki('protect', 'short', '--level=incr');
BenchTimes::say('a set by what is marked, beside convert', $ours, $convert, $memory);
foreach (array_chunk($writes, 2000) as $some) {
    $other = preg_replace_callback('/-P (\d+)/', fn (array $m): string => '-P '.($m[1] % 251 + 2), $some);
    BenchTimes::timed('/usr/bin/qemu-io', '-f', 'qcow2', ...[...$other, $image]);
}
[$ours, $memory] = BenchTimes::kaiseki('restore', 'short', $at(), '--rollback');
BenchTimes::say('rolled back by what is marked, every block checked', $ours, $convert, $memory);
passthru('mariadb --no-defaults --skip-column-names --socket='.escapeshellarg(getenv('KAISEKI_HOME').'/sql/db.sock').
    ' kaiseki -e "SELECT CONCAT(\'    \', name, \': \', TIMESTAMPDIFF(MICROSECOND, started_at, ended_at) / 1e6, \' s, \', detail)'.
    ' FROM run_steps WHERE run_id = (SELECT MAX(id) FROM runs) ORDER BY position"');
require __DIR__.'/parts/standing.php';
$hypervisor->stop(60);
exec('rm -rf '.escapeshellarg($work));
