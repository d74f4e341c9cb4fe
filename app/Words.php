<?php

declare(strict_types=1);

namespace App;

use Carbon\CarbonImmutable;
use DateTimeImmutable;
use DateTimeInterface;
use DateTimeZone;
use Kaiseki\Core\Instant;

/** How figures are said to people. */
final class Words
{
    /** In IEC units. */
    public static function size(int $bytes): string
    {
        $value = (float) $bytes;
        foreach (['B', 'KiB', 'MiB', 'GiB', 'TiB'] as $unit) {
            if ($value < 1023.5 || $unit === 'TiB') {
                return ($unit === 'B' || $value >= 99.5 ? number_format($value) : rtrim(rtrim(number_format($value, 1), '0'), '.')).
                    ' '.
                    $unit;
            }
            $value /= 1024;
        }

        return '';
    }

    public static function duration(float|int $seconds): string
    {
        $seconds = (float) $seconds;
        if ($seconds < 60) {
            return ($seconds < 10 && $seconds > 0 ? rtrim(rtrim(number_format($seconds, 1), '0'), '.') : number_format($seconds)).' s';
        }
        $minutes = (int) round($seconds / 60);
        if ($minutes < 60) {
            return "$minutes min";
        }
        if ($minutes < 48 * 60) {
            return intdiv($minutes, 60).' h'.($minutes % 60 === 0 ? '' : sprintf(' %02d min', $minutes % 60));
        }

        return intdiv($minutes, 1440).' days'.(intdiv($minutes % 1440, 60) === 0 ? '' : ' '.intdiv($minutes % 1440, 60).' h');
    }

    /** "Thu 12 Nov 08:24 +01:00". */
    public static function moment(DateTimeInterface $moment, string $zone, bool $offset = true): string
    {
        static $zones = [];
        $local = DateTimeImmutable::createFromInterface($moment)->setTimezone($zones[$zone] ??= new DateTimeZone($zone));
        $year = $local->format('Y') === (string) CarbonImmutable::now($zone)->year ? '' : ' Y';

        return $local->format("D j M$year H:i".($offset ? ' P' : ''));
    }

    /** The same of microseconds since 1970. */
    public static function instant(int $microseconds, string $zone, bool $offset = true): string
    {
        return self::moment(Instant::ofMicroseconds($microseconds)->in(), $zone, $offset);
    }

    /** When a file was changed, from nanoseconds since 1970, as listings have it: "2026-11-12 08:24". */
    public static function changed(int $nanoseconds, string $zone, string $format = 'Y-m-d H:i'): string
    {
        return Instant::ofMicroseconds(intdiv($nanoseconds, 1000))->in($zone)->format($format);
    }

    public static function count(int $number, string $one, ?string $many = null): string
    {
        return number_format($number).' '.($number === 1 ? $one : $many ?? $one.'s');
    }
}
