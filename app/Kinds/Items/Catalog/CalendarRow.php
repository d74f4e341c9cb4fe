<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use DateTimeZone;
use Kaiseki\Core\Mail\Calendar\Attendee;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Calendar\Occurrence;
use Kaiseki\Core\Mail\Calendar\Series;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\MailAddress;

/** What the catalog says of an appointment, a task or a journal entry. */
final class CalendarRow
{
    /** So many times of one are found by their day, and of one that goes on for long those some years before and after it was written. */
    private const MOST_TIMES = 600;

    private const YEARS = 3 * 366 * 86_400;

    /** Before all that anybody writes down. */
    private const EVER = -62_135_596_800;

    /** @param  int  $receivedAt  when it was written, seconds since 1970 */
    public static function of(CalendarObject $object, string $identity, int $receivedAt, DateTimeZone $home): ItemRow
    {
        $series = $object->series($home);
        $people = array_map(fn (Attendee $of): MailAddress => $of->who, $object->attendees());
        $organizer = $object->organizer();
        $from = $organizer === null ? [] : [$organizer];

        return new ItemRow(
            $object->sort(),
            $identity,
            $object->uid(),
            '',
            $object->summary(),
            ItemRow::words($from),
            ItemRow::words($people),
            $series?->start->seconds(),
            $receivedAt,
            strlen($object->bytes),
            $object->attachments(),
            new ItemDetails([], [], [], $object->wrong, CalendarFacts::of($object, $series)),
            [
                ItemField::From->value => ItemRow::words($from),
                ItemField::To->value => ItemRow::words($people),
                ItemField::Subject->value => $object->summary(),
                ItemField::Place->value => $object->place(),
            ],
            $series === null ? [] : self::times($series, $receivedAt),
        );
    }

    /** @return list<Occurrence> */
    private static function times(Series $series, int $receivedAt): array
    {
        $begins = $series->start->seconds();
        $isOngoing = ($series->end() ?? PHP_INT_MAX) > $receivedAt - self::YEARS;
        $from = $isOngoing && $begins < $receivedAt - self::YEARS ? $receivedAt - self::YEARS : self::EVER;

        return $series->between($from, max($receivedAt, $begins) + self::YEARS, self::MOST_TIMES);
    }
}
