<?php

declare(strict_types=1);

namespace App\Runs;

/** Names a process so that it can be told later, also by another, whether it still lives. */
final class WorkerProcess
{
    /** This process: host, process number, and when it began, since numbers are given out again. */
    public static function own(): string
    {
        return gethostname().':'.getmypid().':'.self::startOf((int) getmypid());
    }

    /** A process of another host is taken to live: only that host can tell. */
    public static function isAlive(string $name): bool
    {
        [$host, $pid, $start] = array_pad(explode(':', $name), 3, '');

        return $host !== gethostname() || self::startOf((int) $pid) === $start;
    }

    private static function startOf(int $pid): string
    {
        $stat = is_readable("/proc/$pid/stat") ? (string) @file_get_contents("/proc/$pid/stat") : '';

        $fields = explode(' ', substr($stat, (strrpos($stat, ')') ?: 0) + 2));

        // One that ended, and that nobody has asked about yet, is still listed (proc(5): Z).
        return $fields[0] === 'Z' ? '' : $fields[19] ?? '';
    }
}
