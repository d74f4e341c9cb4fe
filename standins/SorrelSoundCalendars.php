<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Symfony\Component\Process\Process;

/**
 * The calendars and contacts of Sorrel Sound Ferries, as a server keeps them: a file each, what twelve people put down, move and strike
 * out, day by day, from a seed. Two things go wrong: a change of the whole winter timetable series loses the day that had been moved, and
 * two contacts are merged that are not the same person.
 */
final class SorrelSoundCalendars
{
    public const CALENDAR = 'work';

    public const CONTACTS = 'people';

    /** The series, whose it is, and the days on which one of its days is moved and on which that is lost. */
    public const SERIES = 'Winter timetable';

    public const SERIES_OF = 'harbour';

    public const MOVED_ON = 20;

    public const OVERWRITTEN_ON = 37;

    /** Whose contacts are merged, and on which day. */
    public const MERGED_OF = 'purser';

    public const MERGED_ON = 36;

    public const KEPT = 'Inés Arrieta';

    public const LOST = 'Inés Arriaga';

    private const WHAT = [
        'Berth meeting', 'Crane check', 'Réunion d’équipe', 'Übergabe', 'Tide briefing', 'Pilot change', 'Fire drill', 'Dredger visit',
        'Lunch; quay 3, room B', 'Ticket office', 'Engine hours', 'Gangway inspection', 'Stores', 'Crew change',
    ];

    private const WHERE = ['Boathouse', 'Pier Nine', 'Office, upper floor', 'Slip 2', 'On board the Dunlin', 'Low Skerry', ''];

    private const FIRST = ['Ada', 'Zoë', 'Søren', 'Łucja', 'Jürgen', 'Mira', 'Élodie', 'Niall', 'Chiyo', 'Hanne'];

    private const LAST = ['Dąbrowski', 'Müller', 'O’Brien', 'Vries', 'Šimić', 'Keller', 'Sato', 'Lindqvist', 'Moreau', 'Quill'];

    private const FIRMS = ['Westwick Slips', 'Gull Ness Pilots', 'Low Skerry Mutual', 'Bunker Point', 'Tidal Survey', 'Harbour Twins'];

    private const ANSWERS = ['ACCEPTED', 'DECLINED', 'NEEDS-ACTION', 'TENTATIVE'];

    private readonly Randomizer $random;

    private int $serial = 0;

    private bool $hasLeft = false;

    /** @var list<string> files of appointments that may be changed */
    private array $lying = [];

    /** @var list<string> files of contacts that may be changed */
    private array $known = [];

    private string $seriesUid = '';

    /** When the series has the day that is moved: a Tuesday at nine. */
    private DateTimeImmutable $movedDay;

    /** @param  string  $root  beside the mailboxes */
    public function __construct(private readonly string $root, int $seed = 1902)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
    }

    /** Everything that had piled up before the first day. */
    public function begin(DateTimeImmutable $day): void
    {
        foreach (array_keys(SorrelSoundMail::PEOPLE) as $person) {
            $this->collection($person, self::CALENDAR, 'VCALENDAR', 'Work');
            $this->collection($person, self::CONTACTS, 'VADDRESSBOOK', 'People');
            for ($number = 0; $number < 44; $number++) {
                $this->appointment($person, $day->modify('+'.$this->between(-120, 70).' days'), $day);
            }
            for ($number = 0; $number < 33; $number++) {
                $this->contact($person, $day);
            }
        }
        $this->movedDay = $day->modify('+44 days')->modify('next tuesday');
        $this->seriesUid = 'winter-timetable@'.SorrelSoundMail::DOMAIN;
        $this->series($day, $day->modify('-5 weeks')->modify('next tuesday'), false);
        $this->merged($day, false);
    }

    /** A day until its midnight. */
    public function live(DateTimeImmutable $day, int $number): void
    {
        for ($count = $this->between(1, 4); $count > 0; $count--) {
            $this->appointment($this->one($this->people()), $day->modify('+'.$this->between(1, 40).' days'), $day);
        }
        for ($count = $this->between(1, 3); $count > 0; $count--) {
            $this->change($day);
        }
        if ($this->between(0, 3) === 0) {
            $this->answer($day);
        }
        match ($number) {
            SorrelSoundMail::LEAVES_ON => $this->leave(),
            self::MOVED_ON => $this->series($day, $this->seriesStart($day, $number), true),
            self::OVERWRITTEN_ON => $this->overwrite($day, $number),
            self::MERGED_ON => $this->merged($day, true),
            default => null,
        };
    }

    /** Somebody leaves, and what was theirs with them. */
    private function leave(): void
    {
        $this->hasLeft = true;
        $home = dirname($this->path(SorrelSoundMail::LEAVER, self::CALENDAR, 'x'), 2);
        (new Process(['rm', '-rf', $home]))->mustRun();
    }

    /** @return non-empty-list<string> */
    private function people(): array
    {
        $there = array_diff(array_keys(SorrelSoundMail::PEOPLE), $this->hasLeft ? [SorrelSoundMail::LEAVER] : []);

        return array_values($there) ?: [self::SERIES_OF];
    }

    private function seriesStart(DateTimeImmutable $day, int $number): DateTimeImmutable
    {
        return $day->modify('-'.($number - 1).' days')->modify('-5 weeks')->modify('next tuesday');
    }

    private function series(DateTimeImmutable $day, DateTimeImmutable $start, bool $hasMoved): void
    {
        $people = ['crew.office', 'tickets', 'masters'];
        $head = fn (string $when): array => [
            'UID:'.$this->seriesUid, 'DTSTAMP:'.$day->format('Ymd').'T080000Z', 'ORGANIZER;CN=Willem Quist:mailto:'.
            SorrelSoundMail::address(self::SERIES_OF), ...array_map(
                fn (string $who): string => 'ATTENDEE;CN='.SorrelSoundMail::PEOPLE[$who].";PARTSTAT=$when:mailto:".
                    SorrelSoundMail::address($who),
                $people,
            ),
        ];
        $main = [
            'BEGIN:VEVENT', ...$head('ACCEPTED'), self::at('DTSTART', $start, 9, 0), self::at('DTEND', $start, 10, 0),
            'RRULE:FREQ=WEEKLY;BYDAY=TU', 'SUMMARY:'.self::SERIES, 'LOCATION:Office\\, upper floor',
            'DESCRIPTION:Who sails when\\, week by week.', 'END:VEVENT',
        ];
        $thursday = $this->movedDay->modify('+2 days');
        $exception = [
            'BEGIN:VEVENT', ...$head('ACCEPTED'), self::at('RECURRENCE-ID', $this->movedDay, 9, 0), self::at('DTSTART', $thursday, 13, 30),
            self::at('DTEND', $thursday, 16, 0), 'SUMMARY:'.self::SERIES.': with the pilots', 'LOCATION:Gull Ness\\, pilot station',
            'DESCRIPTION:1. Night sailings in January\\n2. Who takes the Dunlin while she is in dry dock'.
            '\\n3. The tide tables of Low Skerry'.
            '\\nBring the draft of the twelfth; the pilots bring theirs.', 'END:VEVENT',
        ];
        $this->put(self::SERIES_OF, self::CALENDAR, "{$this->seriesUid}.ics", self::calendar($hasMoved ? [...$main, ...$exception]
            : $main), $day);
    }

    /** Somebody gives the whole series another room, and the program writes it without the day that had been moved. */
    private function overwrite(DateTimeImmutable $day, int $number): void
    {
        $this->series($day, $this->seriesStart($day, $number), false);
        $file = $this->path(self::SERIES_OF, self::CALENDAR, "{$this->seriesUid}.ics");
        $text = str_replace('LOCATION:Office\\, upper floor', 'LOCATION:Boathouse\\, long table', (string) file_get_contents($file));
        $this->put(self::SERIES_OF, self::CALENDAR, "{$this->seriesUid}.ics", $text, $day);
    }

    /** Two who are called nearly the same: before, and after somebody let a program join them. */
    private function merged(DateTimeImmutable $day, bool $isDone): void
    {
        $yard = ['EMAIL;TYPE=WORK:yard@westwick-slips.example', 'TEL;TYPE=WORK:+47 5550 0142'];
        $clinic = ['EMAIL;TYPE=WORK:practice@low-skerry-clinic.example', 'TEL;TYPE=CELL:+47 5550 0917'];
        $kept = [
            'UID:arrieta@westwick-slips.example', 'N:Arrieta;Inés;;;', 'FN:'.self::KEPT, 'ORG:Westwick Slips;Dry dock',
            'TITLE:Yard manager',
            ...($isDone ? [...$clinic, $yard[0]] : $yard), ...($isDone ? []
                : ['NOTE:Speaks for the yard. Call before nine\\, never on Fridays.']),
        ];
        $lost = [
            'UID:arriaga@low-skerry-clinic.example', 'N:Arriaga;Inés;;;', 'FN:'.self::LOST, 'ORG:Low Skerry Clinic', 'TITLE:Doctor on call',
            ...$clinic, 'NOTE:For accidents on board.',
        ];
        $this->put(self::MERGED_OF, self::CONTACTS, 'arrieta.vcf', self::card($kept, $day), $day);
        if ($isDone) {
            unlink($this->path(self::MERGED_OF, self::CONTACTS, 'arriaga.vcf'));
        } else {
            $this->put(self::MERGED_OF, self::CONTACTS, 'arriaga.vcf', self::card($lost, $day), $day);
        }
    }

    private function appointment(string $person, DateTimeImmutable $at, DateTimeImmutable $written): void
    {
        $uid = sprintf('a%05d@%s', ++$this->serial, SorrelSoundMail::DOMAIN);
        $hour = $this->between(7, 16);
        $isDay = $this->between(0, 9) === 0;
        $repeats = ! $isDay && $this->between(0, 99) < 22;
        $head = ["UID:$uid", 'DTSTAMP:'.$written->format('Ymd').'T080000Z'];
        $lines = [
            'BEGIN:VEVENT', ...$head,
            ...($isDay
                ? ['DTSTART;VALUE=DATE:'.$at->format('Ymd')]
                : [self::at('DTSTART', $at, $hour, 0), self::at('DTEND', $at, $hour + $this->between(1, 3), $this->one([0, 30]))]),
            'SUMMARY:'.self::escaped($this->one(self::WHAT).' '.$this->between(1, 60)),
        ];
        $place = $this->one(self::WHERE);
        array_push($lines, ...($place === '' ? [] : ['LOCATION:'.self::escaped($place)]));
        if ($repeats) {
            $lines[] = 'RRULE:FREQ=WEEKLY;COUNT='.$this->between(4, 20);
            array_push($lines, ...($this->between(0, 2) === 0 ? [self::at('EXDATE', $at->modify('+14 days'), $hour, 0)] : []));
        }
        foreach ($this->random->pickArrayKeys(SorrelSoundMail::PEOPLE, $this->between(1, 4)) as $who) {
            if ($who !== $person) {
                $lines[] = 'ATTENDEE;CN='.SorrelSoundMail::PEOPLE[$who].';PARTSTAT='.$this->one(self::ANSWERS).':mailto:'.
                    SorrelSoundMail::address((string) $who);
            }
        }
        array_push($lines, 'ORGANIZER;CN='.SorrelSoundMail::PEOPLE[$person].':mailto:'.SorrelSoundMail::address($person), 'END:VEVENT');
        if ($repeats && $this->between(0, 1) === 1) {
            $week = $at->modify('+7 days');
            array_push(
                $lines,
                'BEGIN:VEVENT', ...$head, ...[self::at('RECURRENCE-ID', $week, $hour, 0), self::at('DTSTART', $week, $hour + 1, 30)],
                ...[self::at('DTEND', $week, $hour + 2, 30), 'SUMMARY:'.self::escaped($this->one(self::WHAT).', later'), 'END:VEVENT'],
            );
        }
        $this->lying[] = $this->put($person, self::CALENDAR, "$uid.ics", self::calendar($lines), $written);
    }

    private function contact(string $person, DateTimeImmutable $written): void
    {
        $uid = sprintf('c%05d@%s', ++$this->serial, SorrelSoundMail::DOMAIN);
        [$first, $last, $firm] = [$this->one(self::FIRST), $this->one(self::LAST), $this->one(self::FIRMS)];
        $lines = [
            "UID:$uid", "N:$last;$first;;;", "FN:$first $last", 'ORG:'.self::escaped($firm), "EMAIL;TYPE=WORK:c{$this->serial}@".
            strtolower(str_replace(' ', '-', $firm)).'.example', 'TEL;TYPE=CELL:+47 5550 '.sprintf('%04d', $this->between(0, 9999)),
        ];
        if ($this->between(0, 4) === 0) {
            $lines[] = 'PHOTO;ENCODING=b;TYPE=PNG:'.base64_encode($this->picture());
        }
        $this->known[] = $this->put($person, self::CONTACTS, "$uid.vcf", self::card($lines, $written), $written);
    }

    private function picture(): string
    {
        $image = imagecreatetruecolor(48, 48);
        assert($image !== false);
        [$red, $green, $blue] = [$this->between(60, 200), $this->between(60, 200), $this->between(60, 200)];
        imagefilledrectangle($image, 0, 0, 48, 48, (int) imagecolorallocate($image, $red, $green, $blue));
        imagefilledellipse($image, 24, 20, 20, 22, (int) imagecolorallocate($image, 250, 247, 242));
        imagefilledellipse($image, 24, 48, 36, 30, (int) imagecolorallocate($image, 250, 247, 242));
        ob_start();
        imagepng($image);

        return (string) ob_get_clean();
    }

    /** Something is moved to another room, or struck out. */
    private function change(DateTimeImmutable $day): void
    {
        $number = $this->between(0, count($this->lying) - 1);
        $file = $this->lying[$number];
        if (! is_file($file)) {
            return;
        }
        if ($this->between(0, 3) === 0) {
            unlink($file);

            return;
        }
        $text = (string) file_get_contents($file);
        $place = 'LOCATION:'.self::escaped($this->one(['Boathouse', 'Pier Nine', 'Slip 2', 'Low Skerry']));
        $text = str_contains($text, "\r\nLOCATION:")
            ? (string) preg_replace('/^LOCATION:.*\r$/m', "$place\r", $text)
            : (string) preg_replace('/^SUMMARY:.*\r$/m', "$0\n$place\r", $text, 1);
        file_put_contents($file, $text);
        touch($file, $day->getTimestamp() + 39_600);
    }

    /** Somebody has another number. */
    private function answer(DateTimeImmutable $day): void
    {
        $file = $this->one($this->known);
        if (! is_file($file)) {
            return;
        }
        $number = sprintf('%04d', $this->between(0, 9999));
        $text = (string) preg_replace('/^(TEL;TYPE=CELL:\+47 5550) \d+/m', "\$1 $number", (string) file_get_contents($file));
        file_put_contents($file, $text);
        touch($file, $day->getTimestamp() + 39_600);
    }

    private function collection(string $person, string $name, string $tag, string $title): void
    {
        $folder = dirname($this->path($person, $name, 'x'));
        is_dir($folder) || mkdir($folder, 0700, true);
        file_put_contents("$folder/.Radicale.props", json_encode(['tag' => $tag, 'D:displayname' => $title]));
    }

    private function path(string $person, string $collection, string $file): string
    {
        return "{$this->root}/collection-root/".SorrelSoundMail::address($person)."/$collection/$file";
    }

    private function put(string $person, string $collection, string $file, string $text, DateTimeImmutable $written): string
    {
        $path = $this->path($person, $collection, $file);
        file_put_contents($path, $text);
        touch($path, $written->getTimestamp() + 36_000);

        return $path;
    }

    private static function at(string $property, DateTimeImmutable $day, int $hour, int $minute): string
    {
        return "$property;TZID=Europe/Oslo:".$day->format('Ymd').sprintf('T%02d%02d00', $hour, $minute);
    }

    /** @param  list<string>  $lines */
    private static function calendar(array $lines): string
    {
        $zone = [
            'BEGIN:VTIMEZONE', 'TZID:Europe/Oslo', 'BEGIN:STANDARD', 'DTSTART:20001029T030000',
            'RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10', 'TZNAME:CET', 'TZOFFSETFROM:+0200', 'TZOFFSETTO:+0100', 'END:STANDARD',
            'BEGIN:DAYLIGHT', 'DTSTART:20000326T020000', 'RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=3', 'TZNAME:CEST', 'TZOFFSETFROM:+0100',
            'TZOFFSETTO:+0200', 'END:DAYLIGHT', 'END:VTIMEZONE',
        ];

        return self::folded(['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Sorrel Sound//EN', ...$zone, ...$lines, 'END:VCALENDAR']);
    }

    /** @param  list<string>  $lines */
    private static function card(array $lines, DateTimeImmutable $written): string
    {
        return self::folded(['BEGIN:VCARD', 'VERSION:3.0', ...$lines, 'REV:'.$written->format('Ymd').'T080000Z', 'END:VCARD']);
    }

    /**
     * Lines of at most 75 bytes, as RFC 5545 has them, section 3.1.
     *
     * @param  list<string>  $lines
     */
    public static function folded(array $lines): string
    {
        $text = '';
        foreach ($lines as $line) {
            for ($most = 75; strlen($line) > $most; $most = 74) {
                $piece = mb_strcut($line, 0, $most, 'UTF-8');
                $text .= "$piece\r\n ";
                $line = substr($line, strlen($piece));
            }
            $text .= "$line\r\n";
        }

        return $text;
    }

    private static function escaped(string $text): string
    {
        return strtr($text, ['\\' => '\\\\', ';' => '\\;', ',' => '\\,', "\n" => '\\n']);
    }

    private function between(int $least, int $most): int
    {
        return $this->random->getInt($least, $most);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $from
     * @return T
     */
    private function one(array $from): mixed
    {
        return $from[$this->between(0, count($from) - 1)];
    }
}
