<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use DateTimeZone;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\MailAddress;

/** An appointment, a task or a journal entry, with all its exceptions, as one object of a calendar (RFC 5545). */
final readonly class CalendarObject
{
    public const NAMES = ['VEVENT', 'VTODO', 'VJOURNAL'];

    private const SORTS = ['VEVENT' => ItemSort::Appointment, 'VTODO' => ItemSort::Task, 'VJOURNAL' => ItemSort::Journal];

    private const MOST_PEOPLE = 1_000;

    /**
     * @param  list<CalendarComponent>  $exceptions
     * @param  list<string>  $wrong  what is wrong with it, in words
     */
    private function __construct(
        public string $bytes,
        public CalendarComponent $root,
        /** The whole series, or what takes place once; null where only exceptions are known. */
        public ?CalendarComponent $main,
        public array $exceptions,
        public array $wrong,
    ) {
    }

    public static function of(string $bytes): self
    {
        [$read, $wrong] = ComponentReader::read($bytes);

        return self::ofRead($bytes, $read[0] ?? new CalendarComponent('VCALENDAR', 0), $wrong);
    }

    /**
     * Of bytes that were read already.
     *
     * @param  list<string>  $wrong  what was wrong with them, in words
     */
    public static function ofRead(string $bytes, CalendarComponent $root, array $wrong): self
    {
        $main = null;
        $exceptions = [];
        foreach ($root->of(...self::NAMES) as $component) {
            if ($component->first('RECURRENCE-ID') !== null) {
                $exceptions[] = $component;
            } elseif ($main === null) {
                $main = $component;
            } else {
                $wrong[] = 'it says twice what it is; the first is taken';
            }
        }
        if ($main === null && $exceptions === []) {
            $wrong[] = 'nothing takes place in it';
        }

        return new self($bytes, $root, $main, $exceptions, array_values(array_unique($wrong)));
    }

    /** BLAKE2b-256 of what it says, in whatever order, case and folding a server writes it. */
    public function identity(): string
    {
        return ContentDigest::of($this->root->canonical());
    }

    /** What the object as a whole says; of one that has only exceptions the first of them. */
    public function said(): CalendarComponent
    {
        return $this->main ?? $this->exceptions[0] ?? new CalendarComponent('VEVENT', 0);
    }

    /**
     * How one instance of a series is instead of what the rule has; null where it is as that.
     *
     * @param  string  $key  see CalendarTime::key()
     */
    public function exception(string $key, DateTimeZone $home): ?CalendarComponent
    {
        foreach ($this->exceptions as $exception) {
            if (CalendarTime::of($exception->first('RECURRENCE-ID'), $home)?->key() === $key) {
                return $exception;
            }
        }

        return null;
    }

    public function sort(): ItemSort
    {
        return self::SORTS[$this->said()->name] ?? ItemSort::Appointment;
    }

    public function uid(): string
    {
        return $this->said()->text('UID');
    }

    public function summary(): string
    {
        return $this->said()->text('SUMMARY');
    }

    public function place(): string
    {
        return $this->said()->text('LOCATION');
    }

    public function organizer(): ?MailAddress
    {
        $line = $this->said()->first('ORGANIZER');

        return $line === null ? null : Attendee::address($line);
    }

    /** @return list<Attendee> of the whole and of its exceptions, each once */
    public function attendees(): array
    {
        $people = [];
        foreach ([$this->said(), ...$this->exceptions] as $component) {
            foreach ($component->all('ATTENDEE') as $line) {
                $one = Attendee::of($line);
                $people[strtolower($one->who->address)] ??= $one;
                if (count($people) >= self::MOST_PEOPLE) {
                    break 2;
                }
            }
        }

        return array_values($people);
    }

    /** @param  DateTimeZone  $home  of what names no zone */
    public function series(DateTimeZone $home): ?Series
    {
        return Series::of($this->main, $this->exceptions, $home);
    }

    /** How it repeats, as it is written; '' for what does not. */
    public function rule(): string
    {
        return $this->main?->first('RRULE')->raw ?? '';
    }

    public function attachments(): int
    {
        return count($this->said()->all('ATTACH'));
    }

    /** All that can be read in it. */
    public function words(): string
    {
        $words = [];
        foreach ([$this->said(), ...$this->exceptions] as $component) {
            foreach (['SUMMARY', 'LOCATION', 'DESCRIPTION', 'COMMENT', 'CATEGORIES', 'CONTACT', 'URL'] as $name) {
                foreach ($component->all($name) as $line) {
                    $words[] = $line->text();
                }
            }
        }

        return implode("\n", array_unique($words));
    }
}
