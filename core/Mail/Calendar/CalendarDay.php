<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeImmutable;

/** A day in numbers: rules ask many of them. */
final readonly class CalendarDay
{
    private const LENGTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

    private function __construct(
        public int $year,
        public int $month,
        public int $day,
        /** 1 for Monday to 7. */
        public int $weekday,
        /** From 1. */
        public int $ofYear,
        public int $monthLength,
        public int $yearLength,
    ) {
    }

    public static function of(DateTimeImmutable $moment): self
    {
        [$year, $month, $day, $weekday, $ofYear] = array_map(intval(...), explode(' ', $moment->format('Y n j N z')));
        $isLeap = self::isLeap($year);

        return new self($year, $month, $day, $weekday, $ofYear + 1, self::length($month, $isLeap), 365 + (int) $isLeap);
    }

    /** @return iterable<int, self> so many from it on, by their number from 0 */
    public function following(int $count): iterable
    {
        $day = $this;
        for ($number = 0; $number < $count; $number++) {
            yield $number => $day;
            $day = $day->next();
        }
    }

    private function next(): self
    {
        $weekday = $this->weekday % 7 + 1;
        if ($this->day < $this->monthLength) {
            $ofYear = $this->ofYear + 1;

            return new self($this->year, $this->month, $this->day + 1, $weekday, $ofYear, $this->monthLength, $this->yearLength);
        }
        $isNewYear = $this->month === 12;
        $year = $this->year + (int) $isNewYear;
        $month = $this->month % 12 + 1;
        $isLeap = self::isLeap($year);

        return new self($year, $month, 1, $weekday, $isNewYear ? 1 : $this->ofYear + 1, self::length($month, $isLeap), 365 + (int) $isLeap);
    }

    private static function isLeap(int $year): bool
    {
        return $year % 4 === 0 && ($year % 100 !== 0 || $year % 400 === 0);
    }

    private static function length(int $month, bool $isLeap): int
    {
        return $month === 2 && $isLeap ? 29 : self::LENGTHS[$month - 1];
    }
}
