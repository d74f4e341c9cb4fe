<?php

declare(strict_types=1);

namespace App\View;

use Carbon\CarbonImmutable;

/** Round moments of a zone, so many as fit under a chart. */
final readonly class TimeScale
{
    /** Never more than this, whatever the span. */
    private const MOST = 60;

    public function __construct(private CarbonImmutable $from, private CarbonImmutable $to, private string $zone)
    {
    }

    /** @return list<array{CarbonImmutable, string}> moment in UTC, and how it is written */
    public function labels(): array
    {
        [$step, $unit, $format] = $this->step();
        $labels = [];
        for ($n = 0, $at = $this->first($step, $unit); $n < self::MOST && $at->lt($this->to); $n++, $at = $this->next($at, $step, $unit)) {
            if ($at->gte($this->from)) {
                $labels[] = [
                    $at->utc(),
                    $at->format($format).($unit === 'day' && ($labels === [] || $at->day <= $step) ? $at->format(' M') : ''),
                ];
            }
        }

        return $labels;
    }

    private function first(int $step, string $unit): CarbonImmutable
    {
        $local = $this->from->setTimezone($this->zone);

        return match ($unit) {
            'hour' => $local->startOfHour()->subHours($local->hour % $step),
            'day' => $local->startOfDay(),
            'month' => $local->startOfMonth(),
            default => $local->startOfYear(),
        };
    }

    private function next(CarbonImmutable $at, int $step, string $unit): CarbonImmutable
    {
        return match ($unit) {
            // By hours that pass, not those of the clock on the wall: the night with two 02:30s is an hour longer.
            'hour' => $at->utc()->addHours($step)->setTimezone($this->zone),
            'day' => $at->addDays($step),
            'month' => $at->addMonthsNoOverflow($step),
            default => $at->addYears($step),
        };
    }

    /** @return array{int, string, string} step, unit, and how it is written */
    private function step(): array
    {
        $days = ($this->to->getTimestamp() - $this->from->getTimestamp()) / 86400;

        return match (true) {
            $days <= 0.55 => [1, 'hour', 'H:i'],
            $days <= 1.5 => [3, 'hour', 'D H:i'],
            $days <= 3.5 => [6, 'hour', 'D H:i'],
            $days <= 7 => [12, 'hour', 'D H:i'],
            $days <= 15 => [1, 'day', 'D j'],
            $days <= 30 => [2, 'day', 'D j'],
            $days <= 62 => [5, 'day', 'j'],
            $days <= 120 => [10, 'day', 'j'],
            $days <= 430 => [1, 'month', 'M y'],
            $days <= 1300 => [3, 'month', 'M y'],
            $days <= 2600 => [6, 'month', 'M y'],
            default => [1, 'year', 'Y'],
        };
    }
}
