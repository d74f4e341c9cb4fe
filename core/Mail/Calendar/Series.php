<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateInterval;
use DateTimeImmutable;
use DateTimeZone;

/** When something takes place: once, or by a rule with days added, left out and changed (RFC 5545, section 3.8.5). */
final readonly class Series
{
    private const MOST_DATES = 10_000;

    /**
     * @param  list<RecurrenceRule>  $rules
     * @param  list<CalendarTime>  $added
     * @param  array<string, true>  $left  keys of those that the rule has and that are left out
     * @param  array<string, CalendarComponent>  $exceptions  key => how that one is instead
     */
    private function __construct(
        public CalendarTime $start,
        public DateInterval $length,
        public array $rules,
        private array $added,
        private array $left,
        public array $exceptions,
        private ?CalendarComponent $main,
        private DateTimeZone $home,
    ) {
    }

    /**
     * @param  CalendarComponent|null  $main  null where there are exceptions only
     * @param  list<CalendarComponent>  $exceptions
     */
    public static function of(?CalendarComponent $main, array $exceptions, DateTimeZone $home): ?self
    {
        $first = $main ?? ($exceptions[0] ?? null);
        $start = $first === null ? null : self::startOf($first, $home);
        if ($start === null) {
            return null;
        }
        $lines = fn (string $name): array => $main?->all($name) ?? [];
        $times = fn (string $name): array => array_slice(
            array_merge([], ...array_map(fn (ContentLine $line): array => CalendarTime::list($line, $home), $lines($name))),
            0,
            self::MOST_DATES,
        );
        $rules = array_map(fn (ContentLine $line): ?RecurrenceRule => RecurrenceRule::parse($line->raw, $start), $lines('RRULE'));
        $changed = [];
        foreach ($exceptions as $exception) {
            $key = CalendarTime::of($exception->first('RECURRENCE-ID'), $home)?->key();
            if ($key !== null && count($changed) < self::MOST_DATES) {
                $changed[$key] = $exception;
            }
        }
        $left = array_map(fn (CalendarTime $time): string => $time->key(), $times('EXDATE'));

        return new self(
            $start,
            self::lengthOf($first, $start, $home),
            array_slice(array_values(array_filter($rules)), 0, 5),
            $times('RDATE'),
            array_fill_keys($left, true),
            $changed,
            $main,
            $home,
        );
    }

    private static function startOf(CalendarComponent $of, DateTimeZone $home): ?CalendarTime
    {
        return CalendarTime::of($of->first('DTSTART') ?? $of->first('DUE') ?? $of->first('DTSTAMP'), $home);
    }

    private static function lengthOf(CalendarComponent $of, CalendarTime $start, DateTimeZone $home): DateInterval
    {
        $end = CalendarTime::of($of->first('DTEND'), $home);
        if ($end !== null && $end->seconds() >= $start->seconds()) {
            return $start->wall->diff($end->wallIn($start->zone));
        }
        $line = $of->first('DURATION');

        return ($line === null ? null : CalendarTime::duration(trim($line->raw))) ?? new DateInterval($start->isDay ? 'P1D' : 'PT0S');
    }

    public function repeats(): bool
    {
        return $this->rules !== [] || $this->added !== [];
    }

    /**
     * @param  int  $from  seconds since 1970
     * @param  int  $to  exclusive
     * @return list<Occurrence> those of which a part is in it, rising
     */
    public function between(int $from, int $to, int $most = 500): array
    {
        $found = [];
        $long = $this->start->wall->add($this->length)->getTimestamp() - $this->start->wall->getTimestamp();
        foreach ($this->walls($from - $long - 86_400) as $wall) {
            $begins = CalendarTime::secondsOf($wall, $this->start->zone);
            if ($begins >= $to || count($found) >= $most) {
                break;
            }
            $key = $this->keyOf($wall);
            if (! isset($this->left[$key]) && ! isset($this->exceptions[$key])) {
                $ends = max($begins, CalendarTime::secondsOf($wall->add($this->length), $this->start->zone));
                $found[] = new Occurrence($key, $begins, $ends, false, '', '');
            }
        }
        foreach ($this->exceptions as $key => $component) {
            $found[] = $this->exception((string) $key, $component);
        }
        $found = array_filter($found, fn (Occurrence $of): bool => $of->begins < $to && ($of->ends > $from || $of->begins >= $from));
        usort($found, fn (Occurrence $a, Occurrence $b): int => [$a->begins, $a->key] <=> [$b->begins, $b->key]);

        return array_slice($found, 0, $most);
    }

    /** Whether the rule has it, left out or changed as it may be. */
    public function has(string $key): bool
    {
        if (isset($this->exceptions[$key])) {
            return true;
        }
        $time = CalendarTime::of(ContentLine::parse("X:$key"), $this->home);
        if ($time === null || isset($this->left[$key])) {
            return false;
        }
        foreach ($this->walls($time->seconds() - 2 * 86_400) as $wall) {
            if ($this->keyOf($wall) === $key) {
                return true;
            }
            if (CalendarTime::secondsOf($wall, $this->start->zone) > $time->seconds() + 86_400) {
                break;
            }
        }

        return false;
    }

    /** @return iterable<DateTimeImmutable> on the wall of the start, rising, each once */
    private function walls(int $from): iterable
    {
        if ($this->main === null) {
            return;
        }
        $wall = (new DateTimeImmutable("@$from"))->setTimezone($this->start->zone)->format('Y-m-d H:i:s');
        $floor = new DateTimeImmutable($wall, new DateTimeZone('UTC'));
        $added = array_map(fn (CalendarTime $time): DateTimeImmutable => $time->wallIn($this->start->zone), $this->added);
        $lists = [[$this->start->wall], $added, ...array_map(fn (RecurrenceRule $rule): iterable => $rule->instances($floor),
            $this->rules)];
        yield from RisingMerge::of($lists);
    }

    private function keyOf(DateTimeImmutable $wall): string
    {
        return $this->start->isDay
            ? $wall->format('Ymd')
            : gmdate('Ymd\THis\Z', CalendarTime::secondsOf($wall, $this->start->zone));
    }

    private function exception(string $key, CalendarComponent $component): Occurrence
    {
        $start = self::startOf($component, $this->home) ?? $this->start;
        $ends = CalendarTime::secondsOf($start->wall->add(self::lengthOf($component, $start, $this->home)), $start->zone);
        $begins = $start->seconds();

        return new Occurrence($key, $begins, max($begins, $ends), true, $component->text('SUMMARY'), $component->text('LOCATION'));
    }
}
