<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/** How something repeats, in words. */
final class RuleWords
{
    private const DAYS = [1 => 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

    private const UNITS = [
        'YEARLY' => 'year', 'MONTHLY' => 'month', 'WEEKLY' => 'week', 'DAILY' => 'day', 'HOURLY' => 'hour', 'MINUTELY' => 'minute',
        'SECONDLY' => 'second',
    ];

    private const MONTHS = [1 => 'January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October',
        'November', 'December'];

    public static function of(RecurrenceRule $rule): string
    {
        $unit = self::UNITS[$rule->frequency];
        $words = $rule->interval === 1 ? "every $unit" : "every {$rule->interval} {$unit}s";
        if ($rule->weekdays !== []) {
            $words .= ' on '.implode(', ', array_map(self::weekday(...), $rule->weekdays));
        }
        if ($rule->by['BYMONTHDAY'] !== []) {
            $words .= ' on day '.implode(', ', array_map(self::fromEnd(...), $rule->by['BYMONTHDAY']));
        }
        if ($rule->by['BYMONTH'] !== []) {
            $words .= ' in '.implode(', ', array_map(fn (int $month): string => self::MONTHS[$month], $rule->by['BYMONTH']));
        }
        $others = ['BYYEARDAY', 'BYWEEKNO', 'BYSETPOS', 'BYHOUR', 'BYMINUTE', 'BYSECOND'];
        foreach ($others as $name) {
            $words .= $rule->by[$name] === [] ? '' : ", $name ".implode(', ', $rule->by[$name]); // seldom: as the standard writes it
        }

        return $words.match (true) {
            $rule->count !== null => $rule->count === 1 ? ', once' : ", {$rule->count} times",
            $rule->until !== null => ', until '.$rule->until->format('Y-m-d'),
            default => ', without an end',
        };
    }

    /** @param  array{int, int}  $of */
    private static function weekday(array $of): string
    {
        [$nth, $day] = $of;

        return match (true) {
            $nth === 0 => self::DAYS[$day],
            $nth === -1 => 'the last '.self::DAYS[$day],
            default => 'the '.($nth < 0 ? -$nth.'. from the end' : "$nth.").' '.self::DAYS[$day],
        };
    }

    private static function fromEnd(int $day): string
    {
        return match (true) {
            $day > 0 => (string) $day,
            $day === -1 => 'the last',
            default => -$day.' from the end',
        };
    }
}
