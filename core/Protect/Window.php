<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use DateTimeZone;
use InvalidArgumentException;
use Kaiseki\Core\Instant;

/** Hours of the day in which something may be done: from HH:MM until before HH:MM of a zone, also over midnight. */
final readonly class Window
{
    private function __construct(private int $from, private int $until, private DateTimeZone $zone)
    {
    }

    /** @throws InvalidArgumentException */
    public static function of(string $from, string $until, string $zone): self
    {
        return new self(self::minutes($from), self::minutes($until), self::zone($zone));
    }

    /** @throws InvalidArgumentException */
    public static function zone(string $name): DateTimeZone
    {
        if (! in_array($name, DateTimeZone::listIdentifiers(DateTimeZone::ALL_WITH_BC), true)) {
            throw new InvalidArgumentException("There is no zone \"$name\". Zones are named as Europe/Oslo, or UTC.");
        }

        return new DateTimeZone($name);
    }

    public function holds(Instant $now): bool
    {
        $local = $now->in()->setTimezone($this->zone);
        $minute = (int) $local->format('G') * 60 + (int) $local->format('i');

        return $this->from <= $this->until
            ? $minute >= $this->from && ($minute < $this->until || $this->from === $this->until)
            : $minute >= $this->from || $minute < $this->until;
    }

    /** When the window in which the moment lies began, as the wall clock has it. */
    public function beginOf(Instant $now): Instant
    {
        $local = $now->in()->setTimezone($this->zone);
        $begin = $local->setTime(intdiv($this->from, 60), $this->from % 60);

        return Instant::of($begin > $local ? $begin->modify('-1 day') : $begin);
    }

    private static function minutes(string $text): int
    {
        if (preg_match('/^([01]?\d|2[0-3]):([0-5]\d)$/D', $text, $m) !== 1) {
            throw new InvalidArgumentException("\"$text\" is not a time of day. Write it as 22:30.");
        }

        return (int) $m[1] * 60 + (int) $m[2];
    }
}
