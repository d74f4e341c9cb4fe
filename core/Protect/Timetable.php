<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Cron\CronExpression;
use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use RuntimeException;

/** When which level of set is due: cron expressions (crontab(5)) in a zone, and hours outside of which nothing begins. */
final readonly class Timetable
{
    /** Looked ahead for a time that lies within the hours. */
    private const FIRINGS = 400;

    /** @param  list<array{CronExpression, Level}>  $times */
    private function __construct(private array $times, private DateTimeZone $zone, private ?Window $window)
    {
    }

    /**
     * @param  list<array{string, string}>  $times  cron expression and level
     *
     * @throws InvalidArgumentException if one of them cannot be read, or can never fire
     */
    public static function of(array $times, string $zone, ?string $from = null, ?string $until = null, ?Instant $now = null): self
    {
        if ($times === []) {
            throw new InvalidArgumentException('Name at least one time, such as "0 2 * * 0=full".');
        }
        if (($from === null) !== ($until === null)) {
            throw new InvalidArgumentException('The hours have a beginning and an end: 22:00-05:00.');
        }
        $parsed = [];
        foreach ($times as [$cron, $level]) {
            if (! CronExpression::isValidExpression($cron)) {
                throw new InvalidArgumentException(
                    "\"$cron\" is not a time as crontab(5) has it: minute, hour, day of month, month, weekday.",
                );
            }
            $parsed[] = [new CronExpression($cron), Level::of($level)];
        }
        $table = new self($parsed, Window::zone($zone), $from === null ? null : Window::of($from, (string) $until, $zone));
        foreach ($times as $i => [$cron]) {
            $table->mustFire($parsed[$i][0], $cron, $now ?? (new SystemClock)->now());
        }

        return $table;
    }

    /**
     * What became due after one moment and until another: of several at one time the one that stores most.
     *
     * @return array{Instant, Level}|null the last of them
     */
    public function due(Instant $after, Instant $until): ?array
    {
        $due = null;
        foreach ($this->times as [$cron, $level]) {
            try {
                $last = Instant::of($cron->getPreviousRunDate($this->local($until), 0, true, $this->zone->getName()));
            } catch (RuntimeException) {
                continue;
            }
            if (! $last->isAfter($after) || $last->isAfter($until) || ($this->window !== null && ! $this->window->holds($last))) {
                continue;
            }
            if ($due === null || $last->isAfter($due[0]) || ($last == $due[0] && self::rank($level) < self::rank($due[1]))) {
                $due = [$last, $level];
            }
        }

        return $due;
    }

    /** @return array{Instant, Level}|null */
    public function next(Instant $after): ?array
    {
        $next = null;
        foreach ($this->times as [$cron, $level]) {
            $at = $this->nextOf($cron, $after);
            if (
                $at !== null &&
                ($next === null || $next[0]->isAfter($at) || ($next[0] == $at && self::rank($level) < self::rank($next[1])))
            ) {
                $next = [$at, $level];
            }
        }

        return $next;
    }

    /** Whether something may begin now. */
    public function isOpen(Instant $now): bool
    {
        return $this->window === null || $this->window->holds($now);
    }

    private function nextOf(CronExpression $cron, Instant $after): ?Instant
    {
        $at = $this->local($after);
        for ($i = 0; $i < self::FIRINGS; $i++) {
            try {
                $at = DateTimeImmutable::createFromMutable($cron->getNextRunDate($at, 0, false, $this->zone->getName()));
            } catch (RuntimeException) {
                return null;
            }
            if ($this->window === null || $this->window->holds(Instant::of($at))) {
                return Instant::of($at);
            }
        }

        return null;
    }

    private function mustFire(CronExpression $cron, string $text, Instant $now): void
    {
        try {
            $cron->getNextRunDate($this->local($now), 0, false, $this->zone->getName());
        } catch (RuntimeException) {
            throw new InvalidArgumentException("\"$text\" never comes: there is no such day.");
        }
        if ($this->nextOf($cron, $now) === null) {
            throw new InvalidArgumentException("\"$text\" never lies within the hours that are given.");
        }
    }

    private function local(Instant $moment): DateTimeImmutable
    {
        return $moment->in()->setTimezone($this->zone);
    }

    /** The fuller, the lower. */
    private static function rank(Level $level): int
    {
        return $level->isFull() ? 0 : ($level->name === 'diff' ? 1 : ($level->dumpLevel() ?? 10) + 1);
    }
}
