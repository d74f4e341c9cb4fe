<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeZone;

/** What a field of an item said, and says. */
final readonly class FieldChange
{
    /** Properties => what a person calls them. */
    private const NAMES = [
        'SUMMARY' => 'Subject', 'DTSTART' => 'Begins', 'DTEND' => 'Ends', 'DUE' => 'Due', 'LOCATION' => 'Place', 'DESCRIPTION' => 'Text',
        'RRULE' => 'Repeats', 'EXDATE' => 'Left out', 'RDATE' => 'Added', 'ATTENDEE' => 'Asked', 'ORGANIZER' => 'Asked by',
        'STATUS' => 'State', 'CATEGORIES' => 'Categories', 'ATTACH' => 'Attached', 'COMPLETED' => 'Done', 'PRIORITY' => 'Priority',
        'LAST-MODIFIED' => 'Changed', 'SEQUENCE' => 'Revision', 'DURATION' => 'Takes',
        'FN' => 'Name', 'N' => 'Parts of the name', 'EMAIL' => 'Mail', 'TEL' => 'Phone', 'ADR' => 'Address', 'ORG' => 'Organisation',
        'TITLE' => 'Position', 'NOTE' => 'Note', 'BDAY' => 'Birthday', 'PHOTO' => 'Picture', 'URL' => 'Page', 'NICKNAME' => 'Called',
        'ROLE' => 'Role', 'REV' => 'Changed', 'TRIGGER' => 'Reminder', 'TRANSP' => 'Counts as busy', 'CLASS' => 'Who may see it',
    ];

    private const ASIDE = ['PRODID', 'DTSTAMP', 'CALSCALE', 'METHOD', 'VERSION', 'ACTION', 'UID', 'RECURRENCE-ID'];

    private const LONGEST = 400;

    /**
     * @param  string  $part  which exception of a series it is of, see CalendarTime::key(); '' for the whole
     * @param  list<string>  $was
     * @param  list<string>  $is
     */
    private function __construct(public string $part, public string $field, public array $was, public array $is)
    {
    }

    /** @return list<self> what differs, the whole before its exceptions */
    public static function between(CalendarComponent $was, CalendarComponent $is, DateTimeZone $home): array
    {
        [$then, $now] = [self::rows($was, '', $home), self::rows($is, '', $home)];
        $changes = [];
        foreach (array_keys($then + $now) as $key) {
            [$a, $b] = [$then[$key] ?? [], $now[$key] ?? []];
            if (array_keys($a) != array_keys($b)) {
                [$part, $name] = explode("\0", (string) $key);
                $only = fn (array $of, array $other): array => array_values(array_diff_key($of, $other));
                $changes[] = new self($part, self::NAMES[$name] ?? ucfirst(strtolower($name)), $only($a, $b), $only($b, $a));
            }
        }
        usort($changes, fn (self $a, self $b): int => $a->part <=> $b->part); // stable: fields stay in their order

        return $changes;
    }

    /** @return array<string, array<string, string>> part and name => canonical value => as a person reads it; both sorted */
    private static function rows(CalendarComponent $of, string $part, DateTimeZone $home): array
    {
        $rows = [];
        foreach ($of->lines as $line) {
            if (! in_array($line->name, self::ASIDE, true)) {
                $rows["$part\0{$line->name}"][$line->canonical()] = self::shown($line, $home);
            }
        }
        foreach ($of->components as $component) {
            if ($component->name !== 'VTIMEZONE') {
                $exception = CalendarTime::of($component->first('RECURRENCE-ID'), $home)?->key();
                foreach (self::rows($component, $exception ?? $part, $home) as $key => $values) {
                    $rows[$key] = ($rows[$key] ?? []) + $values;
                }
            }
        }
        foreach ($rows as &$values) {
            ksort($values);
        }

        return $rows;
    }

    private static function shown(ContentLine $line, DateTimeZone $home): string
    {
        if (in_array($line->name, ['PHOTO', 'LOGO', 'SOUND', 'KEY', 'ATTACH'], true) && ($bytes = strlen($line->binary())) > 0) {
            return number_format($bytes).' bytes';
        }
        if (in_array($line->name, ['ATTENDEE', 'ORGANIZER'], true)) {
            return $line->name === 'ATTENDEE' ? Attendee::of($line)->words() : Attendee::address($line)->words();
        }
        if (in_array($line->name, ['DTSTART', 'DTEND', 'DUE'], true)) {
            $time = CalendarTime::of($line, $home);
            if ($time !== null) {
                return $time->wall->format($time->isDay ? 'D Y-m-d' : 'D Y-m-d H:i').($time->zoneName === '' ? '' : " {$time->zoneName}");
            }
        }
        $types = implode(', ', array_map(strtolower(...), $line->parameters['TYPE'] ?? []));
        $text = in_array($line->name, ['N', 'ADR', 'ORG'], true) ? implode(', ', array_filter($line->parts())) : $line->text();

        return mb_strimwidth($text, 0, self::LONGEST, '…').($types === '' ? '' : ' ('.mb_scrub($types).')');
    }
}
