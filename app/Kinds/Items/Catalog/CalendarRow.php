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

    /**
     * @param  int  $receivedAt  when it was written, seconds since 1970
     * @param  bool  $isFollowed  whether it is found by each of its days, and not by the first alone
     */
    public static function of(
        CalendarObject $object,
        string $identity,
        int $receivedAt,
        DateTimeZone $home,
        bool $isFollowed = true,
    ): ItemRow {
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
            $series === null ? [] : self::times($series, $receivedAt, $isFollowed),
        );
    }

    /** @return list<Occurrence> */
    private static function times(Series $series, int $receivedAt, bool $isFollowed): array
    {
        $begins = $series->start->seconds();
        $to = max($receivedAt, $begins) + self::YEARS;
        $first = $series->between(self::EVER, $to, $isFollowed ? self::MOST_TIMES : 1);
        // One that has gone on for long is followed by what is nearest to when it was written.
        $isLong = $isFollowed && count($first) === self::MOST_TIMES && end($first)->begins < $receivedAt - self::YEARS;

        return $isLong ? $series->between($receivedAt - self::YEARS, $to, self::MOST_TIMES) : $first;
    }
}
