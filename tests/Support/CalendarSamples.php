<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\StandIns\SorrelSoundCalendars;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/** Invented rules, appointments and contacts, the same for the same seed. */
final class CalendarSamples
{
    private const DAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];

    private const SUBJECTS = ['Berth meeting', 'Réunion; équipe, complète', 'Übergabe \\ Schlüssel', '潮汐表', "Two\nlines", 'a,b;c'];

    private const PLACES = ['Slip 2', 'Office, upper floor', '', 'Pier; Nine', '埠頭'];

    private const PEOPLE = ['Ada Quist', 'Holm, Inés', 'Łucja', 'Søren Vik'];

    public readonly Randomizer $random;

    private int $made = 0;

    public function __construct(int $seed)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
    }

    /** @return array{string, string} a beginning, and a rule */
    public function rule(): array
    {
        $frequency = $this->one(['YEARLY', 'MONTHLY', 'WEEKLY', 'DAILY', 'HOURLY', 'MINUTELY']);
        $isLong = in_array($frequency, ['YEARLY', 'MONTHLY'], true);
        $numbers = fn (int $least, int $most): string => implode(',', array_unique([$this->between($least, $most), $this->between($least,
            $most)]));
        // The oracle takes "2MO,FR" for days that are both; RFC 5545 for either: they are not mixed.
        $nth = $isLong && $this->between(0, 1) === 1 ? [1, 2, 3, -1, -2, 4] : [''];
        $days = fn (): string => implode(',', array_unique([$this->one($nth).$this->one(self::DAYS), $this->one($nth).
            $this->one(self::DAYS)]));
        $parts = array_filter([
            "FREQ=$frequency",
            $this->seldom(2, fn (): string => 'INTERVAL='.$this->between(1, 4)),
            $this->seldom(3, fn (): string => 'BYMONTH='.$numbers(1, 12)),
            $this->seldom(4, fn (): string => 'BYMONTHDAY='.$this->between(1, 31).',-'.$this->between(1, 31)),
            $this->seldom(3, fn (): string => 'BYDAY='.$days()),
            $frequency === 'YEARLY' ? $this->seldom(5, fn (): string => 'BYYEARDAY='.$this->between(1, 366).',-'.$this->between(1, 366))
                : '',
            $frequency === 'YEARLY' && $nth === [''] ? $this->seldom(4, fn (): string => 'BYWEEKNO='.$this->between(1, 53).',-3') : '',
            $this->seldom(4, fn (): string => 'BYHOUR='.$numbers(0, 23)),
            $this->seldom(6, fn (): string => 'BYMINUTE='.$numbers(0, 59)),
            $isLong ? $this->seldom(4, fn (): string => 'BYSETPOS='.$this->one([1, 2, -1, 3])) : '',
            $this->seldom(4, fn (): string => 'WKST='.$this->one(self::DAYS)),
            $this->one(['COUNT='.$this->between(1, 40), sprintf('UNTIL=20%02d%02d01T000000', $this->between(20, 29), $this->between(1,
                12))]),
        ]);
        $begins = sprintf(
            '20%02d%02d%02dT%02d%02d00',
            $this->between(18, 25), $this->between(1, 12), $this->between(1, 28), $this->between(0, 23), $this->between(0, 59),
        );

        return [$begins, implode(';', $parts)];
    }

    /** @param  string|null  $uid  null for one that nothing else has */
    public function appointment(?string $uid = null): string
    {
        $uid ??= 'a'.++$this->made.'-'.$this->between(0, 1 << 30).'@sorrel.example';
        $day = sprintf('2026%02d%02d', $this->between(1, 12), $this->between(1, 28));
        $hour = sprintf('%02d', $this->between(7, 16));
        $isUtc = $this->between(0, 3) === 0;
        $at = fn (string $name, string $time): string => $isUtc ? "$name:{$day}T{$time}Z" : "$name;TZID=Europe/Oslo:{$day}T$time";
        $repeats = $this->between(0, 2) === 0;
        $lines = [
            'BEGIN:VEVENT', "UID:$uid", 'DTSTAMP:20260601T080000Z', $at('DTSTART', "{$hour}0000"), $at('DTEND', "{$hour}3000"),
            ...$this->said(), ...$this->people(),
            ...($repeats ? ['RRULE:FREQ=WEEKLY;COUNT='.$this->between(3, 9)] : []),
            ...($this->between(0, 3) === 0 ? ['CATEGORIES:harbour,crew'] : []),
            ...($this->between(0, 4) === 0 ? ['BEGIN:VALARM', 'ACTION:DISPLAY', 'TRIGGER:-PT15M', 'DESCRIPTION:soon', 'END:VALARM'] : []),
            'END:VEVENT',
        ];
        if ($repeats && $this->between(0, 1) === 1) {
            $at = fn (string $name, string $time): string => $isUtc ? "$name:{$day}T{$time}Z" : "$name;TZID=Europe/Oslo:{$day}T$time";
            array_push($lines, 'BEGIN:VEVENT', "UID:$uid", 'DTSTAMP:20260601T080000Z', $at('RECURRENCE-ID', "{$hour}0000"));
            array_push($lines, $at('DTSTART', '170000'), $at('DTEND', '180000'), ...[...$this->said(), 'END:VEVENT']);
        }

        return self::folded(['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Sorrel//EN', ...$lines, 'END:VCALENDAR']);
    }

    public function contact(?string $uid = null): string
    {
        $uid ??= 'c'.++$this->made.'-'.$this->between(0, 1 << 30);
        $name = $this->one(self::PEOPLE);

        return self::folded([
            'BEGIN:VCARD', 'VERSION:3.0', "UID:$uid", 'N:'.self::escaped($name).';;;;', 'FN:'.self::escaped($name),
            'EMAIL;TYPE=INTERNET,WORK:p'.$this->between(1, 99).'@sorrel.example', 'item1.TEL:+47 5550 '.$this->between(1000, 9999),
            'item1.X-ABLABEL:Boat', 'ORG:'.self::escaped($this->one(['Sorrel, Sound', 'Low; Skerry'])).';Dept',
            'ADR;TYPE=HOME:;;Quay '.$this->between(1, 9).';Boathouse;;1234;Norway', 'NOTE:'.self::escaped($this->one(self::SUBJECTS)),
            ...($this->between(0, 2) === 0 ? ['PHOTO;ENCODING=b;TYPE=PNG:'.base64_encode($this->random->getBytes($this->between(1, 400)))]
                : []),
            'END:VCARD',
        ]);
    }

    /** @return list<string> */
    private function said(): array
    {
        $place = $this->one(self::PLACES);

        return [
            'SUMMARY:'.self::escaped($this->one(self::SUBJECTS)),
            ...($place === '' ? [] : ['LOCATION:'.self::escaped($place)]),
            ...($this->between(0, 2) === 0 ? ['DESCRIPTION:'.self::escaped(str_repeat('Bring the drawings; ask, again. ',
                $this->between(1, 9)))] : []),
        ];
    }

    /** @return list<string> */
    private function people(): array
    {
        $lines = ['ORGANIZER;CN=Ada:mailto:ada@sorrel.example'];
        for ($count = $this->between(0, 3); $count > 0; $count--) {
            $name = $this->one(self::PEOPLE);
            $answer = $this->one(['ACCEPTED', 'DECLINED', 'NEEDS-ACTION']);
            $lines[] = "ATTENDEE;RSVP=TRUE;PARTSTAT=$answer;CN=\"$name\":mailto:p$count@sorrel.example";
        }

        return $lines;
    }

    /** @param  list<string>  $lines */
    public static function folded(array $lines): string
    {
        return SorrelSoundCalendars::folded($lines);
    }

    private static function escaped(string $text): string
    {
        return strtr($text, ['\\' => '\\\\', ';' => '\\;', ',' => '\\,', "\n" => '\\n']);
    }

    /** @param  callable(): string  $make */
    private function seldom(int $times, callable $make): string
    {
        return $this->between(1, $times) === 1 ? $make() : '';
    }

    public function between(int $least, int $most): int
    {
        return $this->random->getInt($least, $most);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $from
     * @return T
     */
    public function one(array $from): mixed
    {
        return $from[$this->between(0, count($from) - 1)];
    }
}
