<?php

declare(strict_types=1);

namespace Kaiseki\Core;

use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;

/** A moment, to the microsecond, in no zone. */
final readonly class Instant
{
    private function __construct(
        /** Since 1970-01-01T00:00:00Z. */
        public int $microseconds,
    ) {
    }

    public static function ofMicroseconds(int $microseconds): self
    {
        return new self($microseconds);
    }

    public static function of(\DateTimeInterface $moment): self
    {
        return new self($moment->getTimestamp() * 1_000_000 + (int) $moment->format('u'));
    }

    /**
     * ISO 8601 with an offset: 2026-11-12T08:24:00+01:00, ...Z; seconds and their decimals may be left out.
     *
     * @throws InvalidArgumentException if it is no such moment, or has no offset
     */
    public static function parse(string $text): self
    {
        if (
            preg_match(
                '/^(\d{4})-?(\d\d)-?(\d\d)[T ](\d\d):?(\d\d)(?::?(\d\d)(?:[.,](\d{1,9}))?)?\s*(Z|[+-]\d\d(?::?\d\d)?)?$/i',
                trim($text),
                $m,
            ) !== 1
        ) {
            throw new InvalidArgumentException("\"$text\" is not a moment. Write it as 2026-11-12T08:24:00+01:00.");
        }
        if (($m[8] ?? '') === '') {
            throw new InvalidArgumentException(
                "\"$text\" has no offset from UTC, so it could mean several moments. Write it as 2026-11-12T08:24:00+01:00, or with Z ".
                    'for UTC.',
            );
        }
        [, $year, $month, $day, $hour, $minute] = array_map(intval(...), $m);
        $second = (int) ($m[6] ?? 0);
        if (! checkdate($month, $day, $year) || $hour > 23 || $minute > 59 || $second > 59) {
            throw new InvalidArgumentException("\"$text\" is not a moment that exists.");
        }
        $offset = strtoupper($m[8]) === 'Z' ? '+00:00' : (strlen($m[8]) === 3 ? $m[8].':00' : $m[8]);
        $moment = new DateTimeImmutable(sprintf('%04d-%02d-%02dT%02d:%02d:%02d%s', $year, $month, $day, $hour, $minute, $second, $offset));

        return new self($moment->getTimestamp() * 1_000_000 + (int) str_pad(substr($m[7], 0, 6), 6, '0'));
    }

    public function isAfter(self $other): bool
    {
        return $this->microseconds > $other->microseconds;
    }

    /** Seconds from this one to the other; whole where they are. */
    public function secondsUntil(self $other): int|float
    {
        $difference = $other->microseconds - $this->microseconds;

        return $difference % 1_000_000 === 0 ? intdiv($difference, 1_000_000) : $difference / 1_000_000;
    }

    public function in(string $zone = 'UTC'): DateTimeImmutable
    {
        $seconds = intdiv($this->microseconds, 1_000_000);
        $rest = $this->microseconds % 1_000_000;
        if ($rest < 0) {
            $rest += 1_000_000;
            $seconds--;
        }

        return (new DateTimeImmutable('@'.$seconds))->modify("+$rest microseconds")->setTimezone(new DateTimeZone($zone));
    }

    /** ISO 8601 in UTC, with decimals only where they are needed. */
    public function iso(): string
    {
        $moment = $this->in();
        $micro = rtrim($moment->format('u'), '0');

        return $moment->format('Y-m-d\TH:i:s').($micro === '' ? '' : '.'.$micro).'Z';
    }
}
