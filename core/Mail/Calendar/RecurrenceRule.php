<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeImmutable;

/**
 * How something repeats (RFC 5545, section 3.3.10), on the wall of its zone. A rule may be absurd: so many periods, or years, without any
 * instance end it, and so many instances in all.
 */
final readonly class RecurrenceRule
{
    public const MOST = 20_000;

    private const EMPTY_PERIODS = 3_000;

    private const EMPTY_YEARS = 100;

    private const DAYS = ['MO' => 1, 'TU' => 2, 'WE' => 3, 'TH' => 4, 'FR' => 5, 'SA' => 6, 'SU' => 7];

    private const STEPS = ['SECONDLY' => 1, 'MINUTELY' => 60, 'HOURLY' => 3600];

    /** Name => least and most of its numbers; negative ones count from the end where the least is. */
    private const NUMBERS = [
        'BYMONTH' => [1, 12], 'BYMONTHDAY' => [-31, 31], 'BYYEARDAY' => [-366, 366], 'BYWEEKNO' => [-53, 53], 'BYSETPOS' => [-366, 366],
        'BYHOUR' => [0, 23], 'BYMINUTE' => [0, 59], 'BYSECOND' => [0, 60],
    ];

    /**
     * @param  array<string, list<int>>  $by  of NUMBERS
     * @param  list<array{int, int}>  $weekdays  which of them in the period (0: each), and 1 for Monday to 7
     */
    private function __construct(
        public string $frequency,
        public int $interval,
        public ?int $count,
        /** On the wall of the start; inclusive. */
        public ?DateTimeImmutable $until,
        public array $by,
        public array $weekdays,
        public int $weekStart,
        private DateTimeImmutable $start,
    ) {
    }

    /** Null if it is no rule. */
    public static function parse(string $rule, CalendarTime $start): ?self
    {
        $said = [];
        foreach (explode(';', strtoupper(trim($rule))) as $part) {
            [$name, $value] = explode('=', $part, 2) + ['', ''];
            $said[$name] = $value;
        }
        $by = [];
        foreach (self::NUMBERS as $name => [$least, $most]) {
            $numbers = isset($said[$name]) ? self::numbers($said[$name], $least, $most) : [];
            if ($numbers === null) {
                return null;
            }
            $by[$name] = $numbers;
        }
        $weekdays = isset($said['BYDAY']) ? self::weekdays($said['BYDAY']) : [];
        $interval = self::number($said['INTERVAL'] ?? '1', 1, 10_000);
        $count = isset($said['COUNT']) ? self::number($said['COUNT'], 0, PHP_INT_MAX) : null;
        $until = isset($said['UNTIL']) ? self::until($said['UNTIL'], $start) : null;
        $frequency = $said['FREQ'] ?? '';
        if (
            ! in_array($frequency, ['YEARLY', 'MONTHLY', 'WEEKLY', 'DAILY', ...array_keys(self::STEPS)], true) || $weekdays === null ||
            $interval === null || (isset($said['COUNT']) && $count === null) || (isset($said['UNTIL']) && $until === null)
        ) {
            return null;
        }
        $weekStart = self::DAYS[$said['WKST'] ?? 'MO'] ?? 1;

        return new self($frequency, $interval, $count, $until, $by, $weekdays, $weekStart, $start->wall);
    }

    /** @return list<int>|null */
    private static function numbers(string $list, int $least, int $most): ?array
    {
        $numbers = array_map(fn (string $one): ?int => self::number($one, $least, $most), explode(',', $list));

        return in_array(null, $numbers, true) || ($least < 0 && in_array(0, $numbers, true)) ? null : $numbers;
    }

    private static function number(string $text, int $least, int $most): ?int
    {
        $isNumber = preg_match('/^[+-]?\d{1,9}$/D', $text) === 1 && (int) $text >= $least && (int) $text <= $most;

        return $isNumber ? (int) $text : null;
    }

    /** @return list<array{int, int}>|null */
    private static function weekdays(string $list): ?array
    {
        $days = [];
        foreach (explode(',', $list) as $one) {
            if (preg_match('/^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/D', $one, $m) !== 1) {
                return null;
            }
            $days[] = [(int) $m[1], self::DAYS[$m[2]]];
        }

        return $days;
    }

    private static function until(string $text, CalendarTime $start): ?DateTimeImmutable
    {
        $line = ContentLine::parse("UNTIL:$text");
        $time = CalendarTime::of($line, $start->zone);

        return match (true) {
            $time === null => null,
            $time->isDay && ! $start->isDay => $time->wall->setTime(23, 59, 59),
            $time->zoneName === 'UTC' && $start->zoneName !== 'UTC' => $time->wallIn($start->zone),
            default => $time->wall,
        };
    }

    public function isEndless(): bool
    {
        return $this->count === null && $this->until === null;
    }

    /**
     * On the wall of the start, which is one of them only where the rule has it: the caller adds it.
     *
     * @param  DateTimeImmutable|null  $from  none before are of interest
     * @return iterable<DateTimeImmutable> rising
     */
    public function instances(?DateTimeImmutable $from = null): iterable
    {
        $all = 0;
        $left = $this->count ?? PHP_INT_MAX;
        foreach ($this->periods($this->count === null ? $from : null) as $instances) {
            foreach ($instances as $instance) {
                if ($instance < $this->start) {
                    continue;
                }
                if ($left-- <= 0 || ++$all > self::MOST || ($this->until !== null && $instance > $this->until)) {
                    return;
                }
                if ($from === null || $instance >= $from) {
                    yield $instance;
                }
            }
        }
    }

    /** @return iterable<list<DateTimeImmutable>> what falls into each period, rising; ends where nothing comes any more */
    private function periods(?DateTimeImmutable $from): iterable
    {
        $empty = 0;
        $patience = null;
        for ($number = $this->skipped($from); $empty < self::EMPTY_PERIODS; $number++) {
            $period = $this->period($number);
            $patience ??= $period->modify('+'.self::EMPTY_YEARS.' years');
            if ($period > $this->last() || $period > $patience) {
                return;
            }
            if (isset(self::STEPS[$this->frequency])) {
                $isDay = $this->takesDay(CalendarDay::of($period));
                $number += $isDay ? 0 : $this->stepsToMidnight($period);
                $instances = $isDay ? $this->ofStep($period) : [];
            } else {
                $instances = $this->positioned($this->ofDays($period));
            }
            [$empty, $patience] = $instances === [] ? [$empty + 1, $patience] : [0, null];
            yield $instances;
        }
    }

    /** How many more periods fall into the day of one. */
    private function stepsToMidnight(DateTimeImmutable $period): int
    {
        $left = $period->setTime(0, 0)->modify('+1 day')->getTimestamp() - $period->getTimestamp();

        return intdiv($left - 1, self::STEPS[$this->frequency] * $this->interval);
    }

    /** After it begins no period that matters. */
    private function last(): DateTimeImmutable
    {
        $far = $this->start->setDate(9999, 12, 31);

        return $this->until === null ? $far : min($far, $this->until);
    }

    /** Periods before a moment, of those that are looked at at all. */
    private function skipped(?DateTimeImmutable $from): int
    {
        if ($from === null || $from <= $this->start) {
            return 0;
        }
        $seconds = $from->getTimestamp() - $this->start->getTimestamp();
        $length = self::STEPS[$this->frequency] ?? ['DAILY' => 1, 'WEEKLY' => 7, 'MONTHLY' => 31,
            'YEARLY' => 366][$this->frequency] * 86_400;

        return max(0, intdiv($seconds, $length * $this->interval) - 1);
    }

    /** Its first day at midnight, or for those shorter than a day its moment. */
    private function period(int $number): DateTimeImmutable
    {
        $by = $number * $this->interval;
        $day = $this->start->setTime(0, 0);

        return match ($this->frequency) {
            'YEARLY' => $day->setDate((int) $day->format('Y') + $by, 1, 1),
            'MONTHLY' => $day->setDate((int) $day->format('Y'), (int) $day->format('n') + $by, 1),
            'WEEKLY' => $day->modify('-'.(((int) $day->format('N') - $this->weekStart + 7) % 7).' days')->modify('+'.(7 * $by).' days'),
            'DAILY' => $day->modify("+$by days"),
            default => $this->start->modify('+'.($by * self::STEPS[$this->frequency]).' seconds'),
        };
    }

    /** @return list<DateTimeImmutable> the moment itself if nothing speaks against it */
    private function ofStep(DateTimeImmutable $moment): array
    {
        $is = fn (string $name, string $format): bool => $this->by[$name] === [] ||
            in_array((int) $moment->format($format), $this->by[$name], true);
        $isHourly = $this->frequency === 'HOURLY';
        // What is finer than the step adds to it, the rest leaves out.
        if (! $is('BYHOUR', 'G') || (! $isHourly && ! $is('BYMINUTE', 'i')) || ($this->frequency === 'SECONDLY' && ! $is('BYSECOND',
            's'))) {
            return [];
        }
        $minutes = $isHourly && $this->by['BYMINUTE'] !== [] ? $this->by['BYMINUTE'] : [(int) $moment->format('i')];
        $isFiner = $this->frequency !== 'SECONDLY' && $this->by['BYSECOND'] !== [];
        $seconds = $isFiner ? $this->by['BYSECOND'] : [(int) $moment->format('s')];

        return $this->positioned($this->times([$moment->setTime(0, 0)], [(int) $moment->format('G')], $minutes, $seconds));
    }

    /** @return list<DateTimeImmutable> */
    private function ofDays(DateTimeImmutable $period): array
    {
        $days = match ($this->frequency) {
            'YEARLY' => $this->daysOf($period, 365 + (int) $period->format('L')),
            'MONTHLY' => $this->daysOf($period, (int) $period->format('t')),
            'WEEKLY' => $this->daysOf($period, 7),
            default => $this->daysOf($period, 1),
        };
        $hours = $this->by['BYHOUR'] ?: [(int) $this->start->format('G')];
        $minutes = $this->by['BYMINUTE'] ?: [(int) $this->start->format('i')];

        return $this->times($days, $hours, $minutes, $this->by['BYSECOND'] ?: [(int) $this->start->format('s')]);
    }

    /**
     * @param  list<DateTimeImmutable>  $days
     * @param  list<int>  $hours
     * @param  list<int>  $minutes
     * @param  list<int>  $seconds
     * @return list<DateTimeImmutable> rising
     */
    private function times(array $days, array $hours, array $minutes, array $seconds): array
    {
        $times = [];
        foreach ($days as $day) {
            foreach ($hours as $hour) {
                foreach ($minutes as $minute) {
                    foreach ($seconds as $second) {
                        $times[] = $day->setTime($hour, $minute, min(59, $second));
                    }
                }
            }
            if (count($times) > self::MOST) {
                break;
            }
        }
        sort($times);

        return $times;
    }

    /** @return list<DateTimeImmutable> days of a period on which it takes place */
    private function daysOf(DateTimeImmutable $first, int $count): array
    {
        $days = [];
        foreach (CalendarDay::of($first)->following($count) as $number => $day) {
            if ($this->takesDay($day)) {
                $days[] = $first->modify("+$number days");
            }
        }

        return $days;
    }

    private function takesDay(CalendarDay $day): bool
    {
        $months = $this->by['BYMONTH'];
        $days = $this->by['BYMONTHDAY'];
        $years = $this->by['BYYEARDAY'];
        if ($this->saysNoDay()) {
            // What the rule leaves open is as with the first (section 3.3.10).
            $months = $months === [] && $this->frequency === 'YEARLY' ? [(int) $this->start->format('n')] : $months;
            $days = in_array($this->frequency, ['YEARLY', 'MONTHLY'], true) ? [(int) $this->start->format('j')] : $days;
        }

        return ($months === [] || in_array($day->month, $months, true)) &&
            ($days === [] || in_array($day->day, $days, true) || in_array($day->day - $day->monthLength - 1, $days, true)) &&
            ($years === [] || in_array($day->ofYear, $years, true) || in_array($day->ofYear - $day->yearLength - 1, $years, true)) &&
            $this->isWeekday($day) &&
            ($this->by['BYWEEKNO'] === [] || $this->isInWeek($day));
    }

    private function saysNoDay(): bool
    {
        return $this->weekdays === [] && $this->by['BYMONTHDAY'] === [] && $this->by['BYYEARDAY'] === [] && $this->by['BYWEEKNO'] === [];
    }

    private function isWeekday(CalendarDay $day): bool
    {
        if ($this->weekdays === []) {
            $isOpen = $this->frequency === 'WEEKLY' && $this->saysNoDay();

            return ! $isOpen || $day->weekday === (int) $this->start->format('N');
        }
        foreach ($this->weekdays as [$nth, $wanted]) {
            $counts = in_array($this->frequency, ['MONTHLY', 'YEARLY'], true) && $nth !== 0;
            if ($day->weekday === $wanted && (! $counts || $this->isNth($day, $nth))) {
                return true;
            }
        }

        return false;
    }

    /** Whether it is the second Monday, or the last: of the month, or of the year where no month is named. */
    private function isNth(CalendarDay $day, int $nth): bool
    {
        $isOfYear = $this->frequency === 'YEARLY' && $this->by['BYMONTH'] === [];
        $number = ($isOfYear ? $day->ofYear : $day->day) - 1;
        $length = $isOfYear ? $day->yearLength : $day->monthLength;

        return $nth > 0 ? intdiv($number, 7) + 1 === $nth : intdiv($length - 1 - $number, 7) + 1 === -$nth;
    }

    /** Weeks begin with WKST, and the first has at least four days of the year; days of it in the year before or after do not count. */
    private function isInWeek(CalendarDay $of): bool
    {
        $year = $of->year;
        $day = $this->start->setTime(0, 0)->setDate($of->year, $of->month, $of->day);
        $first = $this->firstWeek($year);
        $next = $this->firstWeek($year + 1);
        $weeks = intdiv((int) $first->diff($next)->days, 7);
        if ($day >= $next) {
            // The last days of a year may be of the first week of the next one.
            return in_array(1, $this->by['BYWEEKNO'], true);
        }
        if ($day < $first) {
            $before = $this->firstWeek($year - 1);
            $weeks = intdiv((int) $before->diff($first)->days, 7);

            return in_array($weeks, $this->by['BYWEEKNO'], true) || in_array(-1, $this->by['BYWEEKNO'], true);
        }
        $week = intdiv((int) $first->diff($day)->days, 7) + 1;

        return in_array($week, $this->by['BYWEEKNO'], true) || in_array($week - $weeks - 1, $this->by['BYWEEKNO'], true);
    }

    private function firstWeek(int $year): DateTimeImmutable
    {
        $fourth = $this->start->setTime(0, 0)->setDate($year, 1, 4);

        return $fourth->modify('-'.(((int) $fourth->format('N') - $this->weekStart + 7) % 7).' days');
    }

    /**
     * @param  list<DateTimeImmutable>  $set
     * @return list<DateTimeImmutable>
     */
    private function positioned(array $set): array
    {
        if ($this->by['BYSETPOS'] === []) {
            return $set;
        }
        $chosen = [];
        foreach ($this->by['BYSETPOS'] as $position) {
            $at = $position > 0 ? $position - 1 : count($set) + $position;
            if (isset($set[$at])) {
                $chosen[$at] = $set[$at];
            }
        }
        ksort($chosen);

        return array_values($chosen);
    }
}
