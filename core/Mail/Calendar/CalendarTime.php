<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateInterval;
use DateTimeImmutable;
use DateTimeZone;
use Exception;

/** A moment as a calendar writes it (RFC 5545, sections 3.3.4 and 3.3.5): a day, or a time of some zone. */
final readonly class CalendarTime
{
    private const FORM = '/^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d)(Z?))?$/D';

    private function __construct(
        /** As a clock on the wall shows it, written as if it were of UTC. */
        public DateTimeImmutable $wall,
        public bool $isDay,
        public DateTimeZone $zone,
        /** As the calendar names it; '' for a moment that is the same everywhere on the wall. */
        public string $zoneName,
    ) {
    }

    /** @param  DateTimeZone  $home  of what names no zone, or one that nobody knows */
    public static function of(?ContentLine $line, DateTimeZone $home): ?self
    {
        return $line === null ? null : self::parse(trim($line->raw), $line->parameter('TZID'), $home);
    }

    /** @return list<self> of a line that holds several */
    public static function list(ContentLine $line, DateTimeZone $home): array
    {
        $times = array_map(
            fn (string $value): ?self => self::parse(trim(explode('/', $value)[0]), $line->parameter('TZID'), $home),
            explode(',', $line->raw),
        );

        return array_values(array_filter($times));
    }

    private static function parse(string $value, string $name, DateTimeZone $home): ?self
    {
        if (preg_match(self::FORM, $value, $m) !== 1 || ! checkdate((int) $m[2], (int) $m[3], (int) $m[1])) {
            return null;
        }
        $time = isset($m[4]) ? [(int) $m[4], (int) $m[5], min(59, (int) $m[6])] : [0, 0, 0];
        if ($time[0] > 23 || $time[1] > 59) {
            return null;
        }
        $utc = new DateTimeZone('UTC');
        $wall = (new DateTimeImmutable('now', $utc))->setDate((int) $m[1], (int) $m[2], (int) $m[3])->setTime(...$time);
        $isUtc = ($m[7] ?? '') === 'Z';

        return new self($wall, ! isset($m[4]), $isUtc ? $utc : (Zones::named($name) ?? $home), $isUtc ? 'UTC' : $name);
    }

    /** Seconds since 1970. */
    public function seconds(): int
    {
        return self::secondsOf($this->wall, $this->zone);
    }

    /** Of a clock on the wall of a zone. One that it jumps over is that much later. */
    public static function secondsOf(DateTimeImmutable $wall, DateTimeZone $zone): int
    {
        return (new DateTimeImmutable($wall->format('Y-m-d H:i:s'), $zone))->getTimestamp();
    }

    /** The same moment on a wall of another zone. */
    public function wallIn(DateTimeZone $zone): DateTimeImmutable
    {
        $there = (new DateTimeImmutable("@{$this->seconds()}"))->setTimezone($zone);

        return new DateTimeImmutable($there->format('Y-m-d H:i:s'), new DateTimeZone('UTC'));
    }

    /** By which an instance of a series is named: the same in whatever zone it is written. */
    public function key(): string
    {
        return $this->isDay ? $this->wall->format('Ymd') : gmdate('Ymd\THis\Z', $this->seconds());
    }

    /** @return DateInterval|null one of RFC 5545, section 3.3.6, that is not negative; null if it is none */
    public static function duration(string $value): ?DateInterval
    {
        if (preg_match('/^\+?P(?:(\d{1,6})W|(?:(\d{1,6})D)?(?:T(?:\d{1,6}H)?(?:\d{1,6}M)?(?:\d{1,6}S)?)?)$/D', $value) !== 1) {
            return null;
        }
        try {
            return new DateInterval(ltrim($value, '+'));
        } catch (Exception) {
            return null;
        }
    }
}
