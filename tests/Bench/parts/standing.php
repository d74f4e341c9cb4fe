<?php

declare(strict_types=1);

// A machine that stands on its sets, as the end of bin/bench machine: how long until it runs, off a chain of 3 and one of 60; settled,
// beside qemu-img convert of the same point, and beside the same job of QEMU off a server of QEMU's own; and the memory of what serves
// its disks.

use Kaiseki\StandIns\Hypervisor\Qmp;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;

/** Seconds of a step of a run. */
function secondsOfStep(int $run, string $step): float
{
    $me = posix_getpwuid(posix_getuid())['name'] ?? '';
    $database = new PDO('mysql:unix_socket='.getenv('KAISEKI_HOME').'/sql/db.sock;dbname=kaiseki', $me);
    $seconds = 'TIMESTAMPDIFF(MICROSECOND, started_at, ended_at) / 1e6';
    $asked = $database->prepare("SELECT $seconds FROM run_steps WHERE run_id = ? AND name = ?");
    $asked->execute([$run, $step]);

    return (float) $asked->fetchColumn();
}

/**
 * @param  Closure(): void  $meanwhile
 * @return array<mixed> what bin/kaiseki answers
 */
function answered(Closure $meanwhile, string ...$arguments): array
{
    $process = new Process([PHP_BINARY, dirname(__DIR__, 3).'/bin/kaiseki', ...$arguments, '--json'], null, getenv());
    $process->setTimeout(null)->start();
    while ($process->isRunning()) {
        $meanwhile();
        usleep(50_000);
    }
    $process->isSuccessful() || exit(fwrite(STDERR, implode(' ', $arguments).': '.$process->getOutput().$process->getErrorOutput()));

    return (array) json_decode($process->getOutput(), true);
}

/** Seconds in which QEMU streams an image, served by its own server, into another one: no machine runs, and nothing is checked. */
function streamed(string $image, int $size, string $work): float
{
    $begin = function (string $wanted, string ...$command): Process {
        $process = new Process($command);
        $process->setTimeout(null)->start();
        while (! file_exists($wanted) && $process->isRunning()) {
            usleep(10_000);
        }

        return $process;
    };
    array_map(unlink(...), glob("$work/stream.*") ?: []);
    $server = $begin("$work/stream.nbd", 'qemu-nbd', '-t', '-r', '-f', 'qcow2', '-x', 'disk', '-k', "$work/stream.nbd", $image);
    $below = "nbd+unix:///disk?socket=$work/stream.nbd";
    BenchTimes::timed('/usr/bin/qemu-img', 'create', '-f', 'qcow2', '-u', '-F', 'raw', '-b', $below, "$work/stream.qcow2", (string) $size);
    $node = ['driver' => 'qcow2', 'node-name' => 'disk', 'file' => ['driver' => 'file', 'filename' => "$work/stream.qcow2"]];
    $qemu = $begin(
        "$work/stream.qmp", 'qemu-system-x86_64', '-M', 'none', '-nodefaults', '-display', 'none',
        '-qmp', "unix:$work/stream.qmp,server=on,wait=off", '-blockdev', (string) json_encode($node),
    );
    $qmp = Qmp::to("$work/stream.qmp");
    $began = microtime(true);
    $qmp->call('block-stream', ['job-id' => 'stream', 'device' => 'disk']);
    while ($qmp->call('query-block-jobs') !== []) {
        usleep(50_000);
    }
    $took = microtime(true) - $began;
    $qmp->call('quit');
    $qemu->wait();
    $server->stop();

    return $took;
}

/** KiB that were read of a machine's disks by now. */
function readOf(int $run): float
{
    $told = json_decode((string) @file_get_contents(getenv('KAISEKI_HOME')."/serving/r$run.state"), true);

    return ($told['bytes'] ?? 0) / 1024;
}

$nothing = function (): void {
};
echo "Standing on its sets, {$options['gib']} GiB, {$options['used']} GiB used\n";
foreach (['short' => 3, 'long' => 60] as $kind => $length) {
    $began = microtime(true);
    $stand = ['restore', $kind, $at(), '--stand-up', '--on=bench', '--storage=fast', "--name=stands-$kind", '--cards=none'];
    $told = answered($nothing, ...$stand);
    $took = microtime(true) - $began;
    $steps = array_map(
        fn (string $step): float => secondsOfStep($told['run'], $step),
        ['serve its disks', 'make the machine over them', 'start it'],
    );
    $read = readOf($told['run']);
    printf('  runs off a chain of %-2d after %.2f s: served %.2f, made %.2f, started %.2f s; ', $length, $took, ...$steps);
    printf("%.0f KiB of it were read by then\n", $read);
    chdir("$work/$kind");
    $newest = (glob('*.incr.*') ?: [])[$length - 1];
    $convert = BenchTimes::timed('/usr/bin/qemu-img', 'convert', '-f', 'qcow2', '-O', 'qcow2', $newest, "$work/theirs.qcow2")[0];
    $stream = streamed("$work/$kind/$newest", $size, $work);
    $memory = 0.0;
    $serve = (int) trim((string) shell_exec("pgrep -f '[a]rtisan machine:serve r{$told['run']}$'"));
    $watch = function () use (&$memory, $serve): void {
        preg_match('/VmHWM:\s+(\d+)/', (string) @file_get_contents("/proc/$serve/status"), $most);
        $memory = max($memory, ($most[1] ?? 0) / 1024);
    };
    $settled = answered($watch, 'settle', (string) $told['run']);
    $ours = secondsOfStep($settled['run'], 'bring its disks over');
    BenchTimes::say("settled while it runs, off a chain of $length, beside convert", $ours, $convert, $memory);
    BenchTimes::say('    beside the same job off qemu-nbd', $ours, $stream);
    printf("    then every block read again and compared: %.2f s\n", secondsOfStep($settled['run'], 'read and check what came'));
    answered($nothing, 'machine', 'stop', "stands-$kind", '--on=bench', '--at-once');
    answered($nothing, 'put-back', (string) $told['run'], '--also-changed');
}
