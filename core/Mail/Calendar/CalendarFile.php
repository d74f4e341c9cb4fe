<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/**
 * A file with a calendar in it (RFC 5545): what belongs together by its UID is one object, as a server keeps it (RFC 4791, section 4.1),
 * made of the very bytes of the file.
 */
final class CalendarFile
{
    public const LARGEST = 32 << 20;

    /** Of a calendar, what its objects need beside themselves. */
    private const HEAD = ['VERSION', 'PRODID', 'CALSCALE'];

    /** @var list<string> */
    private array $objects = [];

    private function __construct(private readonly string $bytes)
    {
    }

    public static function begins(string $head): bool
    {
        return preg_match('/^(?:\xef\xbb\xbf)?\s*BEGIN:VCALENDAR\s/i', $head) === 1;
    }

    /** @return list<string> each as a calendar of its own, in the order in which they begin; a file with one is that object */
    public static function objects(string $bytes): array
    {
        [$calendars] = ComponentReader::read($bytes);

        return self::isObject($calendars) ? [$bytes] : self::apart($bytes, $calendars);
    }

    /** @return iterable<CalendarObject> the same; for a file with one it is read once, and not first to see that it is one */
    public static function read(string $bytes): iterable
    {
        [$calendars, $wrong] = ComponentReader::read($bytes);

        return self::isObject($calendars)
            ? [CalendarObject::ofRead($bytes, $calendars[0], $wrong)]
            : self::eachOf(self::apart($bytes, $calendars));
    }

    /**
     * Several objects as one calendar.
     *
     * @param  iterable<string>  $objects
     */
    public static function together(iterable $objects): string
    {
        $zones = [];
        $others = '';
        foreach ($objects as $object) {
            foreach (ComponentReader::read($object)[0] as $calendar) {
                foreach ($calendar->components as $component) {
                    $bytes = self::ended(substr($object, $component->start, $component->end - $component->start));
                    if ($component->name === 'VTIMEZONE') {
                        $zones[$component->text('TZID')] ??= $bytes;
                    } else {
                        $others .= $bytes;
                    }
                }
            }
        }

        return self::calendar("VERSION:2.0\r\nPRODID:-//Kaiseki//EN\r\n", implode('', $zones).$others);
    }

    public static function calendar(string $head, string $components): string
    {
        return "BEGIN:VCALENDAR\r\n$head{$components}END:VCALENDAR\r\n";
    }

    /** @param  list<CalendarComponent>  $calendars */
    private static function isObject(array $calendars): bool
    {
        return count($calendars) === 1 && $calendars[0]->name === 'VCALENDAR' && count(self::groups($calendars[0])) === 1;
    }

    /**
     * @param  list<CalendarComponent>  $calendars
     * @return list<string>
     */
    private static function apart(string $bytes, array $calendars): array
    {
        $file = new self($bytes);
        foreach ($calendars as $calendar) {
            if ($calendar->name === 'VCALENDAR') {
                $file->take($calendar);
            }
        }

        return $file->objects;
    }

    /**
     * @param  list<string>  $objects
     * @return iterable<CalendarObject> one after the other: all of a large calendar are not held at once
     */
    private static function eachOf(array $objects): iterable
    {
        foreach ($objects as $object) {
            yield CalendarObject::of($object);
        }
    }

    /** @return array<string, non-empty-list<CalendarComponent>> what belongs together by its UID */
    private static function groups(CalendarComponent $calendar): array
    {
        $groups = [];
        foreach ($calendar->of(...CalendarObject::NAMES) as $number => $component) {
            $uid = $component->text('UID');
            $groups[$uid === '' ? "\0$number" : $uid][] = $component;
        }

        return $groups;
    }

    private function take(CalendarComponent $calendar): void
    {
        $zones = [];
        foreach ($calendar->of('VTIMEZONE') as $zone) {
            $zones[$zone->text('TZID')] = $this->bytesOf($zone);
        }
        $head = $this->head($calendar);
        foreach (self::groups($calendar) as $components) {
            $used = array_intersect_key($zones, array_fill_keys(array_merge(...array_map(self::zonesOf(...), $components)), true));
            $bytes = implode('', array_map($this->bytesOf(...), $components));
            $this->objects[] = self::calendar($head, implode('', $used).$bytes);
        }
    }

    private function head(CalendarComponent $calendar): string
    {
        $head = '';
        $end = $calendar->components === [] ? $calendar->end : $calendar->components[0]->start;
        foreach (ComponentReader::lines(substr($this->bytes, $calendar->start, $end - $calendar->start)) as [$start, $stop, $line]) {
            if (in_array(ContentLine::parse($line)?->name, self::HEAD, true)) {
                $head .= self::ended(substr($this->bytes, $calendar->start + $start, $stop - $start));
            }
        }

        return $head;
    }

    private function bytesOf(CalendarComponent $component): string
    {
        return self::ended(substr($this->bytes, $component->start, $component->end - $component->start));
    }

    private static function ended(string $bytes): string
    {
        return str_ends_with($bytes, "\n") ? $bytes : "$bytes\r\n";
    }

    /** @return list<string> names of the zones that it uses */
    private static function zonesOf(CalendarComponent $component): array
    {
        return array_values(array_filter(array_map(fn (ContentLine $line): string => $line->parameter('TZID'), $component->lines)));
    }
}
