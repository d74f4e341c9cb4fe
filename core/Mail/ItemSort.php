<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Contact\ContactCard;

/** What an item is. */
enum ItemSort: string
{
    case Message = 'm';
    case Appointment = 'e';
    case Task = 't';
    case Journal = 'j';
    case Contact = 'c';

    public function noun(): string
    {
        return match ($this) {
            self::Message => 'message',
            self::Appointment => 'appointment',
            self::Task => 'task',
            self::Journal => 'journal entry',
            self::Contact => 'contact',
        };
    }

    public function nouns(): string
    {
        return $this === self::Journal ? 'journal entries' : "{$this->noun()}s";
    }

    /** @param  string  $word  as a person writes it; null if it is none */
    public static function named(string $word): ?self
    {
        return match ($word) {
            'message', 'mail' => self::Message,
            'appointment', 'event' => self::Appointment,
            'task', 'todo' => self::Task,
            'journal' => self::Journal,
            'contact' => self::Contact,
            default => null,
        };
    }

    /** Whether it lies in a calendar: its file is one of RFC 5545. */
    public function isOfCalendar(): bool
    {
        return in_array($this, [self::Appointment, self::Task, self::Journal], true);
    }

    /** What RFC 5545 and RFC 6350 call it; '' for a message. */
    public function component(): string
    {
        return match ($this) {
            self::Appointment => 'VEVENT',
            self::Task => 'VTODO',
            self::Journal => 'VJOURNAL',
            self::Contact => 'VCARD',
            self::Message => '',
        };
    }

    /** Whether servers give it back in another order and folding than it was laid, so that fields are compared. */
    public function isOfFields(): bool
    {
        return $this !== self::Message;
    }

    /** What makes it the same wherever it lies, 32 bytes. */
    public function identityOf(string $bytes): string
    {
        return match (true) {
            $this === self::Message => Message::identityOf($bytes),
            default => $this->read($bytes)->identity(),
        };
    }

    /** What is of fields, taken apart. */
    public function read(string $bytes): CalendarObject|ContactCard
    {
        return $this === self::Contact ? ContactCard::of($bytes) : CalendarObject::of($bytes);
    }

    /** Of files that hold one each. */
    public function ending(): string
    {
        return match (true) {
            $this === self::Message => 'eml',
            $this === self::Contact => 'vcf',
            default => 'ics',
        };
    }
}
