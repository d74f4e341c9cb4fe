<?php

declare(strict_types=1);

namespace Kaiseki\Core\Order;

use DateTimeImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Instant;

/**
 * Takes a moment in the words of whoever lost something: "Thursday evening", "yesterday 14:30", "three days ago",
 * "12 Nov", "last week", or a full date and time. Days are those of their zone, and lie in the past.
 */
final readonly class WantedWords
{
    private const DAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];

    private const MONTHS = [
        'january',
        'february',
        'march',
        'april',
        'may',
        'june',
        'july',
        'august',
        'september',
        'october',
        'november',
        'december',
    ];

    /** Hours of the day, from and to. Common practice of the office, not a standard. */
    private const PARTS = [
        'early morning' => [5, 8],
        'late evening' => [21, 24],
        'this morning' => [6, 12],
        'this afternoon' => [12, 17],
        'this evening' => [17, 22],
        'morning' => [6, 12],
        'noon' => [12, 12],
        'midday' => [12, 12],
        'lunchtime' => [12, 13],
        'afternoon' => [12, 17],
        'evening' => [17, 22],
        'tonight' => [17, 24],
        'night' => [20, 24],
        'midnight' => [24, 24],
    ];

    private const NUMBERS = [
        'a' => 1,
        'an' => 1,
        'one' => 1,
        'two' => 2,
        'three' => 3,
        'four' => 4,
        'five' => 5,
        'six' => 6,
        'seven' => 7,
        'eight' => 8,
        'nine' => 9,
        'ten' => 10,
        'eleven' => 11,
        'twelve' => 12,
    ];

    private DateTimeImmutable $today;

    public function __construct(private Instant $now, private string $zone)
    {
        $this->today = $now->in($zone)->setTime(0, 0);
    }

    /** @throws InvalidArgumentException if nothing can be made of the words */
    public function read(string $words): WantedSpan
    {
        $text = trim((string) preg_replace(['/\s+/', '/^(\d{4}-\d\d-\d\d)t(?=\d)/'], [' ', '$1 '], mb_strtolower($words)));
        if (strlen($text) > 200) {
            throw new InvalidArgumentException('That is too long for a moment.');
        }
        $ago = $this->ago($text);
        if ($ago !== null) {
            return $ago;
        }
        if (preg_match('/^\d{4}-.*(?:z|:\d\d ?[+-]\d\d:?\d\d)$/D', $text) === 1) {
            $instant = Instant::parse(strtoupper($text));

            return new WantedSpan($instant, $instant);
        }
        [$text, $clock] = self::clock($text);
        [$text, $part] = self::part($text);
        $span = $this->days(
            trim((string) preg_replace('/\b(on|at|in|the|of|around|about|before|it was|had it)\b|[,.]+(?=\s|$)/', ' ', $text)),
            $clock === null && $part === null,
        );
        if ($span === null) {
            throw new InvalidArgumentException(
                "\"$words\" could not be read as a moment. Write 2026-11-12 19:30, or such words as \"Thursday evening\", \"yesterday ".
                    '14:30" or "3 days ago".',
            );
        }
        [$first, $last] = $span;
        if ($clock !== null) {
            return $this->momentOf($first, $clock, preg_match('/\d{4}/', $text) === 1 ? null : trim($words));
        }
        if ($part === 'midnight' && $first >= $this->today) {
            [$first, $last] = [$first->modify('-1 day'), $last->modify('-1 day')];
        }
        if ($part === 'night' && str_contains($text, 'last')) {
            return $this->spanOf($first, 20, $first->modify('+1 day'), 6, $words);
        }
        [$from, $to] = $part === null ? [0, 24] : self::PARTS[$part];
        if ($first == $this->today && ! str_contains($text, 'today') && $this->at($first, $from)->isAfter($this->now)) {
            [$first, $last] = [$first->modify('-7 days'), $last->modify('-7 days')]; // "Thursday evening", said on a Thursday morning
        }

        return $this->spanOf($first, $from, $last, $to, $words);
    }

    private function ago(string $text): ?WantedSpan
    {
        if (preg_match('/^(?:about )?(\d{1,4}|[a-z]+) (minute|hour|day|week|month)s? ago$/D', $text, $m) !== 1) {
            return null;
        }
        $count = ctype_digit($m[1]) ? (int) $m[1] : self::NUMBERS[$m[1]] ?? null;
        if ($count === null) {
            return null;
        }
        $then = Instant::of($this->now->in($this->zone)->modify("-$count {$m[2]}s"));
        if ($m[2] === 'minute' || $m[2] === 'hour') {
            return new WantedSpan($then, $then, sprintf('Taken as %s.', $this->told($then)));
        }
        $day = $then->in($this->zone)->setTime(0, 0);

        return $this->spanOf($m[2] === 'month' ? $day->modify('-3 days') : $day, 0, $day, 24, $text);
    }

    /** @return array{string, array{int, int}|null} the words without it, and hour and minute */
    private static function clock(string $text): array
    {
        if (
            preg_match('/\b(\d{1,2})(?:[:h]|\.(?!\d\d?\.))(\d\d)(?::\d\d)?\s*(am|pm)?\b/', $text, $m) !== 1 &&
            preg_match('/\b(\d{1,2})()\s*(am|pm)\b/', $text, $m) !== 1 &&
            preg_match('/\bat (\d{1,2})()()(?:\s*o.?clock)?$/D', $text, $m) !== 1
        ) {
            return [$text, null];
        }
        $hour = (int) $m[1];
        $half = $m[3] ?? '';
        if ($half !== '' && ($hour < 1 || $hour > 12)) {
            throw new InvalidArgumentException("There is no {$m[0]}.");
        }
        $hour = $half === 'pm' && $hour < 12 ? $hour + 12 : ($half === 'am' && $hour === 12 ? 0 : $hour);

        return [trim(str_replace($m[0], ' ', $text)), [$hour, (int) $m[2]]];
    }

    /** @return array{string, string|null} the words without it, and the part of the day */
    private static function part(string $text): array
    {
        foreach (array_keys(self::PARTS) as $part) {
            if (preg_match("/\b$part\b/", $text) === 1) {
                $rest = trim((string) preg_replace("/\b$part\b/", ' ', $text));

                return [str_starts_with($part, 'this') || $part === 'tonight' || $rest === '' ? "today $rest" : $rest, $part];
            }
        }

        return [$text, null];
    }

    /** @return array{DateTimeImmutable, DateTimeImmutable}|null the first and the last day that the words may mean, at their beginnings */
    private function days(string $text, bool $wholeDays): ?array
    {
        $text = trim((string) preg_replace('/\s+/', ' ', $text));
        $day = match (true) {
            $text === 'today', $text === '' && ! $wholeDays => $this->today,
            $text === 'yesterday', $text === 'last' => $this->today->modify('-1 day'),
            $text === 'day before yesterday' => $this->today->modify('-2 days'),
            default => $this->weekday($text) ?? $this->date($text),
        };

        return match (true) {
            $day !== null => [$day, $day],
            $text === 'last week' => [($monday = $this->today->modify('monday this week')->modify('-7 days')), $monday->modify('+6 days')],
            $text === 'this week' => [$this->today->modify('monday this week'), $this->today],
            $text === 'last month' => [$this->today->modify('first day of last month'), $this->today->modify('last day of last month')],
            default => $this->week($text) ?? $this->month($text),
        };
    }

    /** The one that was last; "last Thursday" said on a Thursday or Friday is still the newest one before today. */
    private function weekday(string $text): ?DateTimeImmutable
    {
        if (preg_match('/^(last |this )?([a-z]{3,9})( last week)?$/D', $text, $m) !== 1) {
            return null;
        }
        foreach (self::DAYS as $i => $name) {
            if ($m[2] === $name || $m[2] === substr($name, 0, 3) || (strlen($m[2]) >= 4 && str_starts_with($name, $m[2]))) {
                $back = ((int) $this->today->format('N') - 1 - $i + 7) % 7;
                $day = $this->today->modify('-'.($back === 0 && $m[1] === 'last ' ? 7 : $back).' days');

                return ($m[3] ?? '') !== '' && $day >= $this->today->modify('monday this week') ? $day->modify('-7 days') : $day;
            }
        }

        return null;
    }

    private function date(string $text): ?DateTimeImmutable
    {
        if (preg_match('/^(\d{4})-(\d\d)-(\d\d)t?$/D', $text, $m) === 1) {
            return $this->dayOf((int) $m[1], (int) $m[2], (int) $m[3]);
        }
        if (preg_match('/^(\d{1,2})\.(\d{1,2})\.?(\d{4})?$/D', $text, $m) === 1) {
            return $this->dayOf(isset($m[3]) ? (int) $m[3] : null, (int) $m[2], (int) $m[1]);
        }
        if (
            preg_match('/^(?:[a-z]+ )?(\d{1,2})(?:st|nd|rd|th)?\.? ([a-z]{3,9})\.? ?(\d{4})?$/D', $text, $m) === 1 ||
            preg_match('/^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)? ?(\d{4})?$/D', $text, $n) === 1
        ) {
            [$day, $name, $year] = isset($n) && $n !== [] ? [$n[2], $n[1], $n[3] ?? ''] : [$m[1], $m[2], $m[3] ?? ''];
            $month = self::monthOf($name);

            return $month === null ? null : $this->dayOf($year === '' ? null : (int) $year, $month, (int) $day);
        }

        return null;
    }

    /** Without a year the newest such day that is not in the future. */
    private function dayOf(?int $year, int $month, int $day): DateTimeImmutable
    {
        $thisYear = (int) $this->today->format('Y');
        foreach ($year !== null ? [$year] : range($thisYear, $thisYear - 8) as $candidate) {
            if (checkdate($month, $day, $candidate)) {
                $moment = $this->today->setDate($candidate, $month, $day);
                if ($year !== null || $moment <= $this->today) {
                    return $moment;
                }
            }
        }
        throw new InvalidArgumentException("There is no day $day in month $month".($year === null ? '' : " of $year").'.');
    }

    /** @return array{DateTimeImmutable, DateTimeImmutable}|null */
    private function week(string $text): ?array
    {
        if (preg_match('/^week (\d{1,2})(?: (\d{4}))?$/D', $text, $m) !== 1 || (int) $m[1] < 1 || (int) $m[1] > 53) {
            return null;
        }
        // ISO 8601, 3.1.1.23: weeks begin on Mondays, and week 01 has the year's first Thursday.
        $year = (int) ($m[2] ?? $this->today->format('o'));
        $monday = $this->today->setISODate($year, (int) $m[1]);
        if (! isset($m[2]) && $monday > $this->today) {
            $monday = $this->today->setISODate($year - 1, (int) $m[1]);
        }

        return [$monday, min($monday->modify('+6 days'), max($this->today, $monday))];
    }

    /** @return array{DateTimeImmutable, DateTimeImmutable}|null */
    private function month(string $text): ?array
    {
        if (
            preg_match('/^(?:(early|beginning|start|mid|middle|end|late) )?([a-z]{3,9})(?: (\d{4}))?$/D', $text, $m) !== 1 ||
            ($month = self::monthOf($m[2])) === null
        ) {
            return null;
        }
        $first = $this->dayOf(isset($m[3]) ? (int) $m[3] : null, $month, 1);
        $last = $first->modify('last day of this month');
        [$from, $to] = match ($m[1]) {
            'early', 'beginning', 'start' => [$first, $first->modify('+9 days')],
            'mid', 'middle' => [$first->modify('+10 days'), $first->modify('+19 days')],
            'end', 'late' => [$first->modify('+20 days'), $last],
            default => [$first, $last],
        };

        return [$from, min($to, max($this->today, $from))];
    }

    private static function monthOf(string $name): ?int
    {
        foreach (self::MONTHS as $i => $month) {
            if ($name === $month || (strlen($name) >= 3 && str_starts_with($month, $name))) {
                return $i + 1;
            }
        }

        return null;
    }

    /**
     * @param  array{int, int}  $clock
     * @param  string|null  $words  to be told how they were taken; null where they were plain
     */
    private function momentOf(DateTimeImmutable $day, array $clock, ?string $words): WantedSpan
    {
        $local = LocalTime::of(
            (int) $day->format('Y'),
            (int) $day->format('n'),
            (int) $day->format('j'),
            $clock[0],
            $clock[1],
            $this->zone,
        );
        $instants = $local->instants();
        $shown = sprintf('%02d:%02d', ...$clock);
        if ($instants === []) {
            $skipped = $local->skippedAt() ?? throw new InvalidArgumentException("There is no $shown on that day.");

            return new WantedSpan(
                $skipped,
                $skipped,
                "There was no $shown that night: the clocks were set forward. Taken as the moment they were, {$this->told($skipped)}.",
            );
        }
        if (count($instants) > 1) {
            return new WantedSpan(
                $instants[0],
                $instants[0],
                "There were two $shown that night: the clocks were set back. Taken as the first, {$this->told($instants[0])}.",
                $instants[1],
            );
        }

        return new WantedSpan($instants[0], $instants[0], $words === null ? null : "\"$words\" is taken as {$this->told($instants[0])}.");
    }

    private function spanOf(DateTimeImmutable $first, int $from, DateTimeImmutable $last, int $to, string $words): WantedSpan
    {
        $begin = $this->at($first, $from);
        $end = $this->at($last, $to);
        if ($end->isAfter($this->now) && ! $begin->isAfter($this->now)) {
            $end = $this->now;
        }

        return new WantedSpan(
            $begin,
            $end,
            sprintf(
                '"%s" is taken as %s.',
                trim($words),
                $begin->microseconds === $end->microseconds ? $this->told($begin) : $this->told($begin).' to '.$this->told($end),
            ),
        );
    }

    private function at(DateTimeImmutable $day, int $hour): Instant
    {
        $local = LocalTime::of((int) $day->format('Y'), (int) $day->format('n'), (int) $day->format('j'), $hour, 0, $this->zone);

        return $local->instants()[0] ?? ($local->skippedAt() ?? Instant::of($day));
    }

    private function told(Instant $instant): string
    {
        return $instant->in($this->zone)->format('D j M H:i P');
    }
}
