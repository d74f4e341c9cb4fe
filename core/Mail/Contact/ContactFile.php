<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Contact;

use Kaiseki\Core\Mail\Calendar\CalendarComponent;
use Kaiseki\Core\Mail\Calendar\ComponentReader;

/** A file with contacts in it, one after the other (RFC 6350, section 3.2). */
final class ContactFile
{
    public const LARGEST = 32 << 20;

    public static function begins(string $head): bool
    {
        return preg_match('/^(?:\xef\xbb\xbf)?\s*BEGIN:VCARD\s/i', $head) === 1;
    }

    /** @return list<array{int, int}> where each begins, and how many bytes it has */
    public static function cards(string $bytes): array
    {
        $cards = array_filter(ComponentReader::read($bytes)[0], fn (CalendarComponent $one): bool => $one->name === 'VCARD');

        return array_values(array_map(fn (CalendarComponent $one): array => [$one->start, $one->end - $one->start], $cards));
    }
}
