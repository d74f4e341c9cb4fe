<?php

declare(strict_types=1);

namespace App\Databases;

use Closure;
use Symfony\Component\Process\Process;

/** MariaDB's own tools as processes; of a pipe both ends are looked at. */
final class Tools
{
    private const KEPT_ERRORS = 2000;

    /**
     * Feeds statements to a server.
     *
     * @param  iterable<string>  $statements  in pieces
     * @param  bool  $logged  whether the server's own log is to hold it
     *
     * @throws CannotRestore
     */
    public static function load(ServerLink $link, string $schema, iterable $statements, bool $logged = false): void
    {
        $arguments = ['mariadb', ...$link->arguments(), '--binary-mode', '--sandbox', '--max-allowed-packet=1G'];
        if ($link->keepsLog && ! $logged) {
            $arguments[] = '--init-command=SET SESSION sql_log_bin=0';
        }
        $process = new Process($schema === '' ? $arguments : [...$arguments, "--database=$schema"], null, $link->environment(), $statements, null);
        $process->run();
        if (! $process->isSuccessful()) {
            throw CannotRestore::because("{$link->name} did not take what was loaded: ".self::errors($process));
        }
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
        return self::output(['mariadb-dump', ...$link->arguments(), '--max-allowed-packet=1G', '--net-buffer-length=1M', ...$options], $link->environment());
    }

    /**
     * Rolls a log forward.
     *
     * @throws CannotRestore
     */
    public static function replay(ServerLink $link, string $log, ?Closure $told = null): void
    {
        $read = self::output(['mariadb-binlog', '--no-defaults', '--disable-log-bin', '--verify-binlog-checksum', $log], ['TZ' => 'UTC', 'LC_ALL' => 'C.UTF-8']);
        self::load($link, '', (function () use ($read, $told): iterable {
            $bytes = 0;
            foreach ($read as $piece) {
                yield $piece;
                $bytes += strlen($piece);
                if ($told !== null) {
                    $told($bytes);
                }
            }
        })());
    }

    /** @return list<string> what mariadb-check finds wrong */
    public static function check(ServerLink $link, string $schema): array
    {
        $process = new Process(['mariadb-check', ...$link->arguments(), '--check', '--silent', '--databases', $schema], null, $link->environment(), null, null);
        $process->run();
        $said = trim(mb_scrub($process->getOutput().$process->getErrorOutput()));

        return $said === '' && $process->isSuccessful() ? [] : array_slice(explode("\n", $said === '' ? 'it ended with '.$process->getExitCode() : $said), 0, 50);
    }

    private static function errors(Process $process): string
    {
        $said = trim(mb_scrub(mb_strcut($process->getErrorOutput(), 0, self::KEPT_ERRORS)));

        return $said === '' ? 'it said nothing, and ended with '.$process->getExitCode() : $said;
    }
}
