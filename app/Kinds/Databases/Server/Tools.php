<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Run\SchemaCopy;
use Closure;
use Kaiseki\Core\Database\InsertShares;
use Kaiseki\Core\Database\KnownStatements;
use Kaiseki\Core\Database\UnknownStatement;
use Symfony\Component\Process\Process;

/** MariaDB's own tools as processes; of a pipe both ends are looked at. */
final class Tools
{
    private const KEPT_ERRORS = 2000;

    /** Connections over which rows are loaded at the same time. */
    private const LOADS = 2;

    private const PAUSE_US = 300;

    /**
     * Feeds statements to a server.
     *
     * @param  iterable<string>  $statements  in pieces
     *
     * @throws CannotRestore
     */
    public static function load(ServerLink $link, string $schema, iterable $statements): void
    {
        $process = self::client($link, $schema, $statements);
        $process->run();
        self::refuseFailed($link, $process);
    }

    /**
     * Feeds the rows of a dump to a server, over several connections.
     *
     * @param  iterable<string>  $rows  INSERT statements as mariadb-dump writes them, and what belongs to them
     * @param  KnownStatements|null  $known  what may be among them; null for anything, on a server of our own
     *
     * @throws CannotRestore|UnknownStatement
     */
    public static function loadRows(ServerLink $link, string $schema, iterable $rows, ?KnownStatements $known = null): void
    {
        $shares = new InsertShares($rows, $known);
        $processes = array_map(fn (int $n): Process => self::client($link, $schema, $shares->share()), range(1, self::LOADS));
        try {
            foreach ($processes as $process) {
                $process->start();
            }
            do {
                usleep(self::PAUSE_US);
                $running = array_filter($processes, fn (Process $process): bool => $process->isRunning()); // which writes to it
                foreach (array_diff_key($processes, $running) as $process) {
                    self::refuseFailed($link, $process);
                }
            } while ($running !== []);
        } finally {
            foreach ($processes as $process) {
                $process->stop(0);
            }
        }
    }

    /** @param  iterable<string>  $statements */
    private static function client(ServerLink $link, string $schema, iterable $statements): Process
    {
        $arguments = [
            'mariadb',
            ...$link->arguments(),
            '--binary-mode',
            '--sandbox',
            '--local-infile=0',
            '--max-allowed-packet=1G',
            ...$schema === '' ? [] : ["--database=$schema"],
            ...$link->keepsLog ? ['--init-command=SET SESSION sql_log_bin=0'] : [],
        ];

        return new Process($arguments, null, $link->environment(), $statements, null);
    }

    private static function refuseFailed(ServerLink $link, Process $process): void
    {
        if ($process->isSuccessful()) {
            return;
        }
        // The statement itself comes first, and may be long.
        if (preg_match('/^ERROR (?:1153|2006|2013) /m', substr($process->getErrorOutput(), -500)) === 1) {
            throw CannotRestore::tooLong($link->name);
        }
        throw CannotRestore::because("{$link->name} did not take what was loaded: ".self::errors($process));
    }

    /**
     * What a tool writes; its own end is looked at when all is read.
     *
     * @param  list<string>  $command
     * @param  array<string, string>  $environment
     * @return iterable<string>
     *
     * @throws CannotRestore
     */
    public static function output(array $command, array $environment): iterable
    {
        $process = new Process($command, null, $environment, null, null);
        $process->start();
        foreach ($process->getIterator(Process::ITER_SKIP_ERR) as $bytes) {
            yield $bytes;
        }
        $process->wait();
        if (! $process->isSuccessful()) {
            throw CannotRestore::because(basename($command[0]).' ended with '.$process->getExitCode().': '.self::errors($process));
        }
    }

    /**
     * @param  list<string>  $options
     * @return iterable<string>
     */
    public static function dump(ServerLink $link, array $options): iterable
    {
        return self::output(
            ['mariadb-dump', ...$link->arguments(), '--max-allowed-packet=1G', '--net-buffer-length=1M', ...$options],
            $link->environment(),
        );
    }

    /**
     * Rolls a log forward.
     *
     * @throws CannotRestore
     */
    public static function replay(ServerLink $link, string $log, ?Closure $told = null): void
    {
        $read = self::output(
            ['mariadb-binlog', '--no-defaults', '--disable-log-bin', '--verify-binlog-checksum', $log],
            ['TZ' => 'UTC', 'LC_ALL' => 'C.UTF-8'],
        );
        self::load($link, '', SchemaCopy::counted($read, $told));
    }

    /** Begins to have every table of a schema read by mariadb-check. */
    public static function startCheck(ServerLink $link, string $schema): Process
    {
        $process = new Process(
            ['mariadb-check', ...$link->arguments(), '--check', '--silent', '--databases', $schema],
            null,
            $link->environment(),
            null,
            null,
        );
        $process->start();

        return $process;
    }

    /** @return list<string> what mariadb-check found wrong */
    public static function found(Process $check): array
    {
        $check->wait();
        $said = trim(mb_scrub($check->getOutput().$check->getErrorOutput()));

        return $said === '' && $check->isSuccessful()
            ? []
            : array_slice(explode("\n", $said === '' ? 'it ended with '.$check->getExitCode() : $said), 0, 50);
    }

    private static function errors(Process $process): string
    {
        $said = $process->getErrorOutput();
        if (strlen($said) > self::KEPT_ERRORS) {
            // a statement, and then what is wrong with it
            $said = substr($said, 0, self::KEPT_ERRORS >> 1).' ... '.substr($said, -(self::KEPT_ERRORS >> 1));
        }
        $said = trim(mb_scrub($said));

        return $said === '' ? 'it said nothing, and ended with '.$process->getExitCode() : $said;
    }
}
