<?php

declare(strict_types=1);

// A machine that stands on its sets, as the end of bin/bench machine: how long until it runs, off a chain of 3 and one of 60; settled,
// beside qemu-img convert of the same point; and the memory of what serves its disks.

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
    printf("  runs off a chain of %-2d after %.2f s: served %.2f, made %.2f, started %.2f s\n", $length, $took, ...$steps);
    chdir("$work/$kind");
    $newest = (glob('*.incr.*') ?: [])[$length - 1];
    $convert = BenchTimes::timed('/usr/bin/qemu-img', 'convert', '-f', 'qcow2', '-O', 'qcow2', $newest, "$work/theirs.qcow2")[0];
    $memory = 0.0;
    $serve = (int) trim((string) shell_exec("pgrep -f '[a]rtisan machine:serve r{$told['run']}$'"));
    $watch = function () use (&$memory, $serve): void {
        preg_match('/VmHWM:\s+(\d+)/', (string) @file_get_contents("/proc/$serve/status"), $most);
        $memory = max($memory, ($most[1] ?? 0) / 1024);
    };
    $settled = answered($watch, 'settle', (string) $told['run']);
    $ours = secondsOfStep($settled['run'], 'bring its disks over');
    BenchTimes::say("settled while it runs, off a chain of $length, beside convert", $ours, $convert, $memory);
    printf("    then every block read again and compared: %.2f s\n", secondsOfStep($settled['run'], 'read and check what came'));
    answered($nothing, 'machine', 'stop', "stands-$kind", '--on=bench', '--at-once');
    answered($nothing, 'put-back', (string) $told['run'], '--also-changed');
}
