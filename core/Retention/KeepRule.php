<?php

declare(strict_types=1);

namespace Kaiseki\Core\Retention;

use DateTimeZone;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;

/**
 * What is kept: the last n sets; of each of the last n hours, days, weeks (ISO 8601), months and years that have one the
 * newest set; and everything within a span before the newest set. A set is kept if any of these keeps it (common
 * practice; grandfather, father and son are yearly or monthly, weekly and daily).
 */
final readonly class KeepRule
{
    private const PERIODS = ['hourly' => 'Y-m-d H', 'daily' => 'Y-m-d', 'weekly' => 'o-W', 'monthly' => 'Y-m', 'yearly' => 'Y'];

    private const MOST = 100_000;

    /** @param  array<string, int>  $periods  hourly, daily ... => how many */
    private function __construct(private int $last, private array $periods, private ?int $withinSeconds)
    {
    }

    /**
     * @param  string  $text  such as "last=7 daily=14 weekly=8 within=30d"
     *
     * @throws InvalidArgumentException
     */
    public static function parse(string $text): self
    {
        $last = 0;
        $periods = [];
        $within = null;
        foreach (preg_split('/[\s,]+/', trim($text), -1, PREG_SPLIT_NO_EMPTY) ?: [] as $part) {
            [$name, $value] = explode('=', $part, 2) + [1 => ''];
            if ($name === 'within') {
                $within = Demands::span($value);
            } elseif ($name !== 'last' && ! isset(self::PERIODS[$name])) {
                throw new InvalidArgumentException(
                    "\"$part\" is not a rule. Rules are last, hourly, daily, weekly, monthly, yearly with a number, and within with a ".
                        'span: last=7 daily=14 within=30d.',
                );
            } elseif (preg_match('/^\d{1,6}$/D', $value) !== 1 || (int) $value > self::MOST) {
                throw new InvalidArgumentException("\"$part\": how many are to be kept is a whole number.");
            } elseif ($name === 'last') {
                $last = (int) $value;
            } elseif ((int) $value > 0) {
                $periods[$name] = (int) $value;
            }
        }

        return new self($last, $periods, $within);
    }

    public function keepsNothing(): bool
    {
        return $this->last === 0 && $this->periods === [] && $this->withinSeconds === null;
    }

    public function words(): string
    {
        $words = $this->last > 0 ? ["last={$this->last}"] : [];
        foreach (array_keys(self::PERIODS) as $name) {
            if (isset($this->periods[$name])) {
                $words[] = "$name={$this->periods[$name]}";
            }
        }
        if ($this->withinSeconds !== null) {
            $words[] = 'within='.Demands::spanInWords($this->withinSeconds);
        }

        return implode(' ', $words);
    }

    /**
     * @param  array<array-key, Instant>  $sets  id => instant
     * @param  DateTimeZone  $zone  whose days and weeks count
     * @return array<array-key, list<string>> id => by which rules it is kept; the newest first
     */
    public function kept(array $sets, DateTimeZone $zone): array
    {
        uasort($sets, fn (Instant $a, Instant $b): int => $b->microseconds <=> $a->microseconds);
        $kept = $seen = [];
        $newest = null;
        $number = 0;
        foreach ($sets as $id => $instant) {
            $newest ??= $instant;
            if ($number++ < $this->last) {
                $kept[$id][] = "last $number";
            }
            $local = $instant->in()->setTimezone($zone);
            foreach ($this->periods as $name => $count) {
                $period = $local->format(self::PERIODS[$name]);
                if (! isset($seen[$name][$period]) && count($seen[$name] ?? []) < $count) {
                    $seen[$name][$period] = true;
                    $kept[$id][] = "$name ".($name === 'weekly' ? $local->format('o-\WW') : $period);
                }
            }
            if ($this->withinSeconds !== null && $instant->microseconds >= $newest->microseconds - $this->withinSeconds * 1_000_000) {
                $kept[$id][] = 'within '.Demands::spanInWords($this->withinSeconds);
            }
        }

        return $kept;
    }
}
