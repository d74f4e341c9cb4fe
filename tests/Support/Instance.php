<?php

declare(strict_types=1);

namespace Tests\Support;

use PDO;
use Symfony\Component\Process\Process;

/** The running application that bin/test started, from outside: its command line, its processes, its database. */
final class Instance
{
    public static function home(): string
    {
        return (string) getenv('KAISEKI_BROWSER_HOME');
    }

    public static function process(string ...$arguments): Process
    {
        return new Process(
            [PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', ...$arguments],
            null,
            ['KAISEKI_HOME' => self::home(), 'KAISEKI_ENV' => false],
            null,
            null,
        );
    }

    public static function kaiseki(string ...$arguments): Answer
    {
        $process = self::process(...$arguments);

        return new Answer($process->run(), $process->getOutput());
    }

    public static function database(): PDO
    {
        return new PDO(
            'mysql:unix_socket='.self::home().'/sql/db.sock;dbname=kaiseki',
            (string) posix_getpwuid(posix_geteuid())['name'],
            '',
        );
    }

    public static function control(string ...$arguments): string
    {
        $process = new Process(['supervisorctl', '-c', self::home().'/supervisord.conf', ...$arguments]);
        $process->run();

        return $process->getOutput();
    }

    /** The supervisor of root, behind walls: of the databases, the processes of hosts, and of the application's own supervisor. */
    public static function rootControl(string ...$arguments): string
    {
        $process = new Process(['supervisorctl', '-c', self::home().'/root/supervisord.conf', ...$arguments]);
        $process->run();

        return $process->getOutput();
    }

    public static function waitUntil(callable $condition): bool
    {
        for ($end = microtime(true) + 60; microtime(true) < $end; usleep(100_000)) {
            if ($condition()) {
                return true;
            }
        }

        return false;
    }
}
