<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/**
 * The logs of one server in their order, and how far one can go in them. The tools that roll forward do not notice a log
 * that is missing: here each log's list of what was committed before it must be the state at the end of the one before.
 */
final readonly class LogChain
{
    /** @var list<LogFacts> */
    public array $logs;

    /** @param  list<LogFacts>  $logs */
    public function __construct(array $logs)
    {
        usort($logs, fn (LogFacts $a, LogFacts $b): int => [$a->series(), $a->number()] <=> [$b->series(), $b->number()]);
        $this->logs = $logs;
    }

    public function log(string $file): ?LogFacts
    {
        foreach ($this->logs as $log) {
            if ($log->file === $file) {
                return $log;
            }
        }

        return null;
    }

    /** Why one cannot go from the end of one log into the next; null if one can. */
    public static function breakBetween(LogFacts $log, LogFacts $next): ?string
    {
        return match (true) {
            $log->problem !== null => "{$log->file} {$log->problem}",
            $next->number() !== $log->number() + 1 => sprintf(
                '%s is missing',
                self::named($log, $log->number() + 1).
                    ($next->number() > $log->number() + 2 ? ' to '.self::named($log, $next->number() - 1) : ''),
            ),
            ! $next->before->equals($log->after) => "{$next->file} does not follow {$log->file}: it begins after ".
                self::shown($next->before).
                ', and that one ends with '.
                self::shown($log->after).
                ($next->server !== $log->server ? " (they are of servers {$log->server} and {$next->server})" : ''),
            default => null,
        };
    }

    private static function named(LogFacts $log, int $number): string
    {
        $digits = preg_match('/\.(\d+)$/', $log->file, $m) === 1 ? strlen($m[1]) : 6;

        return $log->series().'.'.str_pad((string) $number, $digits, '0', STR_PAD_LEFT);
    }

    private static function shown(GtidState $state): string
    {
        return $state->domains === [] ? 'nothing' : $state->text();
    }

    /**
     * The logs to go through from a position on, as far as they hang together, and what ends them.
     *
     * @return array{list<LogFacts>, string|null} the second is null where the last known log is reached whole
     */
    public function from(LogPosition $start): array
    {
        $run = [];
        foreach ($this->logs as $log) {
            if ($run === []) {
                if ($log->file !== $start->file) {
                    continue;
                }
                if ($start->offset > $log->wholeUntil) {
                    return [
                        [],
                        $log->problem === null
                            ? "{$log->file} ends at {$log->wholeUntil}, before the position of the dump"
                            : "{$log->file} {$log->problem}",
                    ];
                }
                $run[] = $log;

                continue;
            }
            $break =
                $log->series() === $run[0]->series()
                    ? self::breakBetween($run[count($run) - 1], $log)
                    : "{$log->file} is of another series than {$run[0]->file}";
            if ($break !== null) {
                return [$run, $break];
            }
            $run[] = $log;
        }
        if ($run === []) {
            return [[], "{$start->file}, in which the dump begins, is missing"];
        }
        $last = $run[count($run) - 1];

        return [$run, $last->problem === null ? null : "{$last->file} {$last->problem}"];
    }

    /** @return list<array{string, string}> log, and why one cannot go into it from the one before */
    public function breaks(): array
    {
        $breaks = [];
        foreach ($this->logs as $i => $log) {
            $because = $i === 0 ? null : self::breakBetween($this->logs[$i - 1], $log);
            if ($because !== null) {
                $breaks[] = [$log->file, $because];
            }
        }

        return $breaks;
    }
}
