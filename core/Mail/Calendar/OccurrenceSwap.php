<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeZone;

/**
 * Brings one instance of a series back as it was, and leaves the rest of the series as it is now: the exception of then takes the place of
 * the one of now; where it was none, the one of now goes, and a day that was left out comes in again.
 */
final class OccurrenceSwap
{
    /**
     * @param  string  $key  see CalendarTime::key()
     * @return string|null the object as it is to be; null if the series of now has no such instance, or says nothing of it
     */
    public static function of(CalendarObject $then, CalendarObject $now, string $key, DateTimeZone $home): ?string
    {
        $series = $now->series($home);
        if ($series === null || $now->main === null) {
            return null;
        }
        $was = $then->exception($key, $home);
        $is = $now->exception($key, $home);
        $bytes = self::withIn($now, $key, $home);
        $shifted = strlen($bytes) - strlen($now->bytes);
        if (! CalendarObject::of($bytes)->series($home)?->has($key)) {
            return null;
        }
        $new = $was === null ? '' : self::bytesOf($then, $was);
        if ($is !== null) {
            $at = $is->start + ($is->start > $now->main->start ? $shifted : 0);

            return substr_replace($bytes, $new, $at, $is->end - $is->start);
        }

        return substr_replace($bytes, $new, $now->main->end + $shifted, 0);
    }

    /** Whether the instance is there now as it was then: by its exception, or as the rule has it. */
    public static function isDone(CalendarObject $then, CalendarObject $now, string $key, DateTimeZone $home): bool
    {
        return $now->series($home)?->has($key) === true &&
            $now->exception($key, $home)?->canonical() === $then->exception($key, $home)?->canonical();
    }

    private static function bytesOf(CalendarObject $of, CalendarComponent $component): string
    {
        $bytes = substr($of->bytes, $component->start, $component->end - $component->start);

        return str_ends_with($bytes, "\n") ? $bytes : "$bytes\r\n";
    }

    /** The object of now with the instance not left out. */
    private static function withIn(CalendarObject $now, string $key, DateTimeZone $home): string
    {
        assert($now->main !== null);
        $main = substr($now->bytes, $now->main->start, $now->main->end - $now->main->start);
        $kept = '';
        foreach (ComponentReader::lines($main) as [$start, $end, $line]) {
            $parsed = ContentLine::parse($line);
            $changed = $parsed?->name === 'EXDATE' ? self::without($parsed, $line, $key, $home) : null;
            $kept .= $changed ?? substr($main, $start, $end - $start);
        }

        return substr_replace($now->bytes, $kept, $now->main->start, strlen($main));
    }

    /** Null if it does not name the instance. */
    private static function without(ContentLine $left, string $line, string $key, DateTimeZone $home): ?string
    {
        $head = substr($line, 0, strlen($line) - strlen($left->raw));
        $values = explode(',', $left->raw);
        $isOther = fn (string $value): bool => CalendarTime::of(ContentLine::parse($head.$value), $home)?->key() !== $key;
        $others = array_filter($values, $isOther);
        if (count($others) === count($values)) {
            return null;
        }

        return $others === [] ? '' : $head.implode(',', $others)."\r\n"; // longer than 75 bytes is allowed (section 3.1)
    }
}
