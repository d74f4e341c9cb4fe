<?php

declare(strict_types=1);

namespace Tests\Support;

/** What benches have in common: an instance of their own, programs that are timed, and how it is told. */
final class BenchTimes
{
    /** @return string a folder to work in */
    public static function begin(string $name): string
    {
        $root = dirname(__DIR__, 2);
        $home = "$root/var/bench";
        $work = "$root/var/bench-$name";
        exec('rm -rf '.escapeshellarg($work));
        mkdir($work, 0755, true);
        $socket = stream_socket_server('tcp://127.0.0.1:0');
        assert($socket !== false);
        $port = substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
        fclose($socket);
        putenv("KAISEKI_HOME=$home");
        putenv("KAISEKI_PORT=$port");
        putenv('KAISEKI_ONE_ACCOUNT=1'); // benches ask its database themselves
        exec(escapeshellarg("$root/bin/stop")." 2>&1; rm -rf $home/db $home/index $home/names $home/runs", $out);
        exec(escapeshellarg("$root/bin/start").' --background --no-demo 2>&1', $out, $code);
        $code === 0 || exit(fwrite(STDERR, implode("\n", $out)."\n"));
        register_shutdown_function(fn () => exec(escapeshellarg("$root/bin/stop")));

        return $work;
    }

    /** @return array{float, float} seconds, and peak memory in MiB */
    public static function timed(string ...$command): array
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
        if (pcntl_wexitstatus($status) !== 0) {
            exit(fwrite(STDERR, implode(' ', array_slice($command, 0, 6)).' ended with '.pcntl_wexitstatus($status)."\n"));
        }

        return [microtime(true) - $began, $usage['ru_maxrss'] / 1024];
    }

    /** @return array{float, float} */
    public static function kaiseki(string ...$arguments): array
    {
        return self::timed(PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', ...$arguments);
    }

    public static function say(string $what, float $ours, float $theirs, ?float $memory = null): void
    {
        printf(
            "  %-58s %7.2f s  beside %7.2f s  ratio %5.2f%s\n", $what, $ours, $theirs, $ours / $theirs,
            $memory === null ? '' : sprintf('  peak %3.0f MiB', $memory),
        );
    }
}
