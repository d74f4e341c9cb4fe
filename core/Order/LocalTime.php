<?php

declare(strict_types=1);

namespace Kaiseki\Core\Order;

use DateTimeImmutable;
use DateTimeZone;
use Exception;
use InvalidArgumentException;
use Kaiseki\Core\Instant;

/** What a clock on a wall shows in some zone. Where clocks change, it may show the same twice, or never. */
final readonly class LocalTime
{
    private function __construct(
        /** 1970-01-01 00:00 of a clock that never changed, and so many seconds. */
        private int $seconds,
        private DateTimeZone $zone,
    ) {
    }

    /** @throws InvalidArgumentException if there is no such day, time or zone */
    public static function of(int $year, int $month, int $day, int $hour, int $minute, string $zone): self
    {
        if (! checkdate($month, $day, $year) || $hour < 0 || $hour > 24 || $minute < 0 || $minute > 59 || ($hour === 24 && $minute > 0)) {
            throw new InvalidArgumentException(sprintf('There is no %04d-%02d-%02d %02d:%02d.', $year, $month, $day, $hour, $minute));
        }
        try {
            $known = new DateTimeZone($zone);
        } catch (Exception) {
            throw new InvalidArgumentException("There is no zone \"$zone\".");
        }

        return new self((int) gmmktime($hour, $minute, 0, $month, $day, $year), $known);
    }

    /**
     * The instants at which the clock shows this: one; two, the earlier first, in the night in which it is set back; none
     * in the night in which it is set forward.
     *
     * @return list<Instant>
     */
    public function instants(): array
    {
        $instants = [];
        foreach ($this->offsets() as $offset) {
            $moment = $this->seconds - $offset;
            if ((new DateTimeImmutable("@$moment"))->setTimezone($this->zone)->getOffset() === $offset) {
                $instants[$moment] = Instant::ofMicroseconds($moment * 1_000_000);
            }
        }
        ksort($instants);

        return array_values($instants);
    }

    /** The instant at which the clock was set forward past this; for times that were never shown. */
    public function skippedAt(): ?Instant
    {
        if ($this->instants() !== []) {
            return null;
        }
        [$low, $high] = [$this->seconds - max($this->offsets()) - 86400, $this->seconds - min($this->offsets()) + 86400];
        foreach ($this->zone->getTransitions($low, $high) ?: [] as $i => $transition) {
            if ($i > 0 && $this->seconds < $transition['ts'] + $transition['offset']) {
                return Instant::ofMicroseconds($transition['ts'] * 1_000_000);
            }
        }

        return null;
    }

    /** @return non-empty-list<int> seconds: those in force a day before and a day after */
    private function offsets(): array
    {
        $at = fn (int $moment): int => (new DateTimeImmutable("@$moment"))->setTimezone($this->zone)->getOffset();

        return array_values(array_unique([$at($this->seconds - 86400), $at($this->seconds), $at($this->seconds + 86400)]));
    }
}
