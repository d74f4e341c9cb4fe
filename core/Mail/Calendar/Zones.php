<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeZone;
use Exception;
use IntlTimeZone;

/** Zones by the names that calendars give them: those of the tz database, with whatever stands before, and those of Windows. */
final class Zones
{
    /** @var array<string, DateTimeZone|null> */
    private static array $known = [];

    /** Null if nobody knows it. */
    public static function named(string $name): ?DateTimeZone
    {
        $name = mb_strcut(trim($name), 0, 100);
        if (count(self::$known) > 1_000) {
            self::$known = [];
        }

        return self::$known[$name] ??= self::find($name);
    }

    private static function find(string $name): ?DateTimeZone
    {
        $parts = explode('/', $name);
        $windows = IntlTimeZone::getIDForWindowsID($name);
        foreach ([$name, implode('/', array_slice($parts, -2)), implode('/', array_slice($parts, -3)), (string) $windows] as $try) {
            if (preg_match('~^(UTC|[A-Z][A-Za-z_]+(/[A-Za-z_+-]+[0-9]*){1,2})$~D', $try) === 1) {
                try {
                    return new DateTimeZone($try);
                } catch (Exception) {
                    continue;
                }
            }
        }

        return null;
    }
}
