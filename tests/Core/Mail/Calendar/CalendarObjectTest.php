<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Calendar\CalendarFile;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Calendar\ContentLine;
use Kaiseki\Core\Mail\Calendar\FieldChange;
use Kaiseki\Core\Mail\Calendar\ObjectUid;
use Kaiseki\Core\Mail\Calendar\Occurrence;
use Kaiseki\Core\Mail\Calendar\OccurrenceSwap;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\Contact\ContactField;
use Kaiseki\Core\Mail\Contact\ContactFile;
use Kaiseki\Core\Mail\ItemSort;
use Tests\Support\CalendarSamples;
use Tests\Support\MailSamples;

/** @param  list<string>  $lines  of its components */
function calendarOf(string ...$lines): CalendarObject
{
    return CalendarObject::of(CalendarSamples::folded(['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Sorrel//EN', ...$lines,
        'END:VCALENDAR']));
}

function oslo(): DateTimeZone
{
    return new DateTimeZone('Europe/Oslo');
}

/** @return list<string> */
function daysOf(CalendarObject $object, string $from = '2026-01-01', string $to = '2027-12-31'): array
{
    $found = $object->series(oslo())?->between((int) strtotime("$from UTC"), (int) strtotime("$to UTC")) ?? [];

    return array_map(fn (Occurrence $of): string => gmdate('m-d H:i', $of->begins).($of->isException ? '*' : ''), $found);
}

/** A series of Tuesdays at nine, and what else it says. */
function tuesdays(string ...$more): CalendarObject
{
    return calendarOf(
        'BEGIN:VEVENT', 'UID:t', 'DTSTAMP:20260601T080000Z', 'DTSTART;TZID=Europe/Oslo:20261006T090000',
        'DTEND;TZID=Europe/Oslo:20261006T100000', 'RRULE:FREQ=WEEKLY;COUNT=6', 'SUMMARY:Timetable', ...$more,
    );
}

it('is the same object however a server writes it, as Python\'s vobject and icalendar do', function (int $seed): void {
    $samples = new CalendarSamples($seed);
    $objects = array_map(fn (): string => $samples->appointment(), range(1, 40));
    $program = <<<'PYTHON'
        import json, sys, vobject, icalendar
        out = []
        for text in json.load(sys.stdin):
            out.append([vobject.readOne(text).serialize(), icalendar.Calendar.from_ical(text).to_ical().decode()])
        print(json.dumps(out))
        PYTHON;
    foreach (MailSamples::python($program, $objects) as $number => $written) {
        $own = CalendarObject::of($objects[$number]);
        foreach ($written as $other) {
            expect($other)->not->toBe($objects[$number])
                ->and(CalendarObject::of($other)->identity())->toBe($own->identity(), "$objects[$number]\n$other");
        }
        // Another time, place, answer or room is another state.
        foreach ([['/DTSTART(.*)T\d\d/', 'DTSTART$1T05'], ['/SUMMARY:./', 'SUMMARY:?'], ['/mailto:ada/', 'mailto:ida']] as [$what, $with]) {
            $changed = (string) preg_replace($what, $with, $objects[$number], 1);
            expect(CalendarObject::of($changed)->identity())->not->toBe($own->identity());
        }
    }
})->with(deeper([1, 2]));

it('is the same contact however a server writes it, as Python\'s vobject does', function (int $seed): void {
    $samples = new CalendarSamples($seed);
    $cards = array_map(fn (): string => $samples->contact(), range(1, 40));
    $program = 'import json, sys, vobject; print(json.dumps([vobject.readOne(c).serialize() for c in json.load(sys.stdin)]))';
    foreach (MailSamples::python($program, $cards) as $number => $written) {
        $own = ContactCard::of($cards[$number]);
        expect(ContactCard::of((string) $written)->identity())->toBe($own->identity(), "$cards[$number]\n$written")
            ->and(ContactCard::of(str_replace('5550', '5551', $cards[$number]))->identity())->not->toBe($own->identity());
    }
})->with(deeper([1, 2]));

it('reads of appointments what Python\'s icalendar reads', function (int $seed): void {
    $samples = new CalendarSamples($seed);
    $objects = array_map(fn (): string => $samples->appointment(), range(1, 60));
    $program = <<<'PYTHON'
        import json, sys, icalendar
        out = []
        for text in json.load(sys.stdin):
            events = [e for e in icalendar.Calendar.from_ical(text).walk('VEVENT')]
            main = [e for e in events if 'RECURRENCE-ID' not in e][0]
            people = main.get('ATTENDEE', [])
            people = people if isinstance(people, list) else [people]
            out.append([str(main['UID']), str(main['SUMMARY']), str(main.get('LOCATION', '')), int(main.decoded('DTSTART').timestamp()),
                int((main.decoded('DTEND') - main.decoded('DTSTART')).total_seconds()),
                sorted(set(str(p)[7:] for p in people)), len(events) - 1])
        print(json.dumps(out))
        PYTHON;
    $theirs = MailSamples::python($program, $objects);
    foreach ($objects as $number => $bytes) {
        $of = CalendarObject::of($bytes);
        $first = $of->series(oslo())?->between(0, PHP_INT_MAX >> 20)[0] ?? null;
        $mains = array_filter($of->series(oslo())?->between(0, PHP_INT_MAX >> 20) ?? [], fn (Occurrence $one): bool => ! $one->isException);
        $length = $mains === [] ? 1800 : reset($mains)->ends - reset($mains)->begins;
        $people = array_map(fn ($one): string => $one->who->address, $of->attendees());
        sort($people);
        expect([
            $of->uid(), $of->summary(), $of->place(), $of->series(oslo())?->start->seconds(), $length, $people, count($of->exceptions),
        ])->toBe($theirs[$number])->and($first)->not->toBeNull();
    }
})->with(deeper([3, 4]));

it('knows when a series takes place: added, left out, changed, across the change of clocks', function (): void {
    $object = tuesdays(
        'EXDATE;TZID=Europe/Oslo:20261013T090000', 'RDATE;TZID=Europe/Oslo:20261015T120000', 'END:VEVENT',
        'BEGIN:VEVENT', 'UID:t', 'RECURRENCE-ID:20261020T070000Z', 'DTSTART;TZID=Europe/Oslo:20261022T133000',
        'DTEND;TZID=Europe/Oslo:20261022T160000', 'SUMMARY:Moved', 'END:VEVENT',
    );
    expect(daysOf($object))->toBe(['10-06 07:00', '10-15 10:00', '10-22 11:30*', '10-27 08:00', '11-03 08:00', '11-10 08:00'])
        ->and(daysOf($object, '2026-10-21', '2026-10-28'))->toBe(['10-22 11:30*', '10-27 08:00']);
});

it('takes names of zones as programs write them', function (string $name, string $utc): void {
    $object = calendarOf('BEGIN:VEVENT', 'UID:z', "DTSTART;TZID=$name:20261110T090000", 'DURATION:PT1H', 'END:VEVENT');
    expect(daysOf($object))->toBe([$utc]);
})->with([
    ['Europe/Oslo', '11-10 08:00'], ['"/mozilla.org/20050126_1/America/New_York"', '11-10 14:00'], ['W. Europe Standard Time',
        '11-10 08:00'],
    ['Nowhere/Land', '11-10 08:00'], ['"../../etc/passwd"', '11-10 08:00'], ['America/Argentina/Ushuaia', '11-10 12:00'],
]);

it('lasts a day where it says a day, and as long as it says', function (): void {
    $of = fn (string ...$lines) => calendarOf('BEGIN:VEVENT', 'UID:l', ...[...$lines, 'END:VEVENT'])->series(oslo())?->between(0,
        1 << 40)[0];
    $day = $of('DTSTART;VALUE=DATE:20261110');
    expect($day?->ends - $day?->begins)->toBe(86_400);
    $long = $of('DTSTART:20261110T080000Z', 'DURATION:P1DT2H');
    expect($long?->ends - $long?->begins)->toBe(93_600);
    $wrong = $of('DTSTART:20261110T080000Z', 'DTEND:20261109T080000Z');
    expect($wrong?->ends)->toBe($wrong?->begins);
});

it('brings one day of a series back, and leaves the rest as it is now', function (): void {
    $moved = ['BEGIN:VEVENT', 'UID:t', 'RECURRENCE-ID;TZID=Europe/Oslo:20261020T090000', 'DTSTART;TZID=Europe/Oslo:20261022T133000',
        'SUMMARY:Moved',
        'END:VEVENT'];
    $then = tuesdays('LOCATION:Office', 'END:VEVENT', ...$moved);
    $now = tuesdays('LOCATION:Long table', 'EXDATE;TZID=Europe/Oslo:20261013T090000,20261027T090000', 'END:VEVENT');
    $back = CalendarObject::of((string) OccurrenceSwap::of($then, $now, '20261020T070000Z', oslo()));
    expect($back->main?->text('LOCATION'))->toBe('Long table')
        ->and($back->exceptions[0]->canonical())->toBe($then->exceptions[0]->canonical())
        ->and(daysOf($back))->toBe(['10-06 07:00', '10-22 11:30*', '11-03 08:00', '11-10 08:00']);
    // Where it was as the rule has it, the exception of now goes, and a day that was left out comes in again.
    $plain = CalendarObject::of((string) OccurrenceSwap::of(tuesdays('END:VEVENT'), $back, '20261020T070000Z', oslo()));
    expect($plain->exceptions)->toBe([])->and(daysOf($plain))->toContain('10-20 07:00');
    $in = CalendarObject::of((string) OccurrenceSwap::of($then, $now, '20261013T070000Z', oslo()));
    expect(daysOf($in))->toBe(['10-06 07:00', '10-13 07:00', '10-20 07:00', '11-03 08:00', '11-10 08:00'])
        ->and($in->main?->text('EXDATE'))->toBe('20261027T090000');
    // A series that has no such day any more cannot take it.
    $shorter = calendarOf('BEGIN:VEVENT', 'UID:t', 'DTSTART;TZID=Europe/Oslo:20261006T090000', 'RRULE:FREQ=WEEKLY;COUNT=2', 'END:VEVENT');
    expect(OccurrenceSwap::of($then, $shorter, '20261020T070000Z', oslo()))->toBeNull();
});

it('takes a calendar apart by what belongs together, and puts it together again', function (): void {
    $samples = new CalendarSamples(8);
    $objects = array_map(fn (): string => $samples->appointment(), range(1, 25));
    $file = CalendarFile::together($objects);
    $apart = CalendarFile::objects($file);
    $identity = fn (string $bytes): string => bin2hex(ItemSort::Appointment->identityOf($bytes));
    expect(array_map($identity, $apart))->toBe(array_map($identity, $objects));
    $count = MailSamples::python(
        'import json, sys, icalendar; print(json.dumps([len(icalendar.Calendar.from_ical(json.load(sys.stdin)).walk("VEVENT"))]))',
        $file,
    );
    expect($count)->toBe([substr_count(implode('', $objects), 'BEGIN:VEVENT')]);
    // One alone is its file, byte for byte; a zone goes with those that use it.
    expect(CalendarFile::objects($objects[0]))->toBe([$objects[0]]);
    $zone = "BEGIN:VTIMEZONE\r\nTZID:Europe/Oslo\r\nEND:VTIMEZONE\r\n";
    $two = str_replace("END:VCALENDAR\r\n", '', tuesdays('END:VEVENT')->bytes).
        $zone."BEGIN:VTODO\r\nUID:d\r\nEND:VTODO\r\nEND:VCALENDAR\r\n";
    [$series, $task] = CalendarFile::objects($two);
    expect($series)->toContain($zone)->and($task)->not->toContain('VTIMEZONE')
        ->and(CalendarObject::of($task)->sort())->toBe(ItemSort::Task);
});

it('says field by field what changed', function (): void {
    $was = tuesdays('LOCATION:Office', 'END:VEVENT', 'BEGIN:VEVENT', 'UID:t', 'RECURRENCE-ID:20261020T070000Z', 'SUMMARY:Moved',
        'END:VEVENT');
    $is = tuesdays('LOCATION:Long table', 'ATTENDEE;CN=Ada;PARTSTAT=ACCEPTED:mailto:ada@sorrel.example', 'END:VEVENT');
    $rows = array_map(
        fn (FieldChange $of): array => [$of->part, $of->field, $of->was, $of->is],
        FieldChange::between($was->root, $is->root, oslo()),
    );
    expect($rows)->toContain(['', 'Place', ['Office'], ['Long table']])
        ->toContain(['', 'Asked', [], ['Ada <ada@sorrel.example>, comes']])
        ->toContain(['20261020T070000Z', 'Subject', ['Moved'], []]);
});

it('gives an object another name, and changes nothing else of it', function (): void {
    $object = tuesdays('END:VEVENT', 'BEGIN:VEVENT', 'UID:t', 'RECURRENCE-ID:20261020T070000Z', 'END:VEVENT')->bytes;
    expect(ObjectUid::renamed($object, "other\r\nX:1"))->toBe(str_replace('UID:t', 'UID:otherX:1', $object));
});

it('reads contacts of every version', function (string $card, string $name, array $fields): void {
    $of = ContactCard::of(str_replace("\n", "\r\n", $card));
    expect($of->name())->toBe($name)
        ->and(array_map(fn (ContactField $one): string => "{$one->field}|{$one->kind}|{$one->text}", $of->fields()))->toBe($fields);
})->with([
    'vCard 2.1, quoted-printable over two lines' => [
        "BEGIN:VCARD\nVERSION:2.1\nN;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:M=FCller;J=F6rg\nTEL;CELL;VOICE:+47 1\n".
        "NOTE;ENCODING=QUOTED-PRINTABLE:one =\ntwo\nEND:VCARD\n",
        'Jörg Müller', ['Phone|cell|+47 1', 'Note||one two'],
    ],
    'vCard 3.0, with a field that a program named' => [
        "BEGIN:VCARD\nVERSION:3.0\nFN:Chloé Castro\nN:Castro;Chloé;;;\nitem1.TEL:+47 2\nitem1.X-ABLABEL:Boat\nORG:Sorrel\\, Sound;Dept\n".
        "ADR;TYPE=WORK:;;Quay 3;Boathouse;;1234;Norway\nEND:VCARD\n",
        'Chloé Castro', ['Organisation||Sorrel, Sound, Dept', 'Phone|Boat|+47 2', 'Address|work|Quay 3, Boathouse, 1234, Norway'],
    ],
    'vCard 4.0' => [
        "BEGIN:VCARD\nVERSION:4.0\nFN:Vier\nTEL;VALUE=uri;TYPE=\"voice,home\":tel:+47-3\nEMAIL;PREF=1:v@x.example\nEND:VCARD\n",
        'Vier', ['Phone|voice,home|tel:+47-3', 'Mail||v@x.example'],
    ],
]);

it('finds several contacts in one file, and pictures in them', function (): void {
    $samples = new CalendarSamples(6);
    $cards = array_map(fn (): string => $samples->contact(), range(1, 9));
    $file = implode('', $cards);
    expect(array_map(fn (array $of): string => substr($file, ...$of), ContactFile::cards($file)))->toBe($cards);
    $png = base64_encode("\x89PNG");
    foreach (["PHOTO;ENCODING=b;TYPE=PNG:$png", "PHOTO;BASE64;PNG:$png", "PHOTO:data:image/png;base64,$png"] as $line) {
        expect(ContactCard::of("BEGIN:VCARD\r\nFN:x\r\n$line\r\nEND:VCARD\r\n")->picture())->toBe("\x89PNG");
    }
    expect(ContactCard::of("BEGIN:VCARD\r\nPHOTO;VALUE=uri:http://elsewhere.example/p\r\nEND:VCARD\r\n")->picture())->toBe('');
});

it('shows no mark that turns the writing direction, and no control character', function (): void {
    expect(ContentLine::parse("SUMMARY:a\u{202e}b\x07c\\nd")?->text())->toBe("abc\nd");
});

it('comes to an end with whatever is no calendar', function (int $seed): void {
    $samples = new CalendarSamples($seed);
    for ($number = 0; $number < 120; $number++) {
        $bytes = $number % 2 === 0 ? $samples->appointment() : $samples->contact();
        for ($deed = $samples->between(1, 12); $deed > 0; $deed--) {
            $at = $samples->between(0, strlen($bytes) - 1);
            $bytes = match ($samples->between(0, 4)) {
                0 => substr($bytes, 0, $at),
                1 => substr_replace($bytes, $samples->random->getBytes(3), $at, 1),
                2 => substr_replace($bytes, $samples->one(["\r\n", ' ', ':', ';', '"', "\0", 'BEGIN:VEVENT', 'END:VCALENDAR']), $at, 0),
                3 => $bytes.substr($bytes, $at),
                default => substr_replace($bytes, '', $at, $samples->between(1, 30)),
            }.'x';
        }
        $objects = CalendarFile::objects($bytes);
        expect([...CalendarFile::read($bytes)])->toEqual(array_map(CalendarObject::of(...), $objects));
        foreach ([...$objects, $bytes] as $object) {
            $of = CalendarObject::of($object);
            expect(strlen($of->identity()))->toBe(32)
                ->and($of->series(oslo())?->between(0, PHP_INT_MAX >> 20) ?? [])->toBeArray()
                ->and(mb_check_encoding($of->summary().$of->place().$of->words().implode($of->wrong), 'UTF-8'))->toBeTrue();
        }
        $card = ContactCard::of($bytes);
        expect(mb_check_encoding($card->name().$card->words().json_encode($card->fields()), 'UTF-8'))->toBeTrue();
    }
})->with(deeper([1, 2, 3]));

it('tells what is wrong, and is not brought down by it', function (string $bytes, string $wrong): void {
    expect(implode('; ', CalendarObject::of($bytes)->wrong))->toContain($wrong);
})->with([
    'nothing' => ['', 'nothing takes place in it'],
    'cut off' => ["BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\n", 'VEVENT does not end'],
    'deep' => [str_repeat("BEGIN:VEVENT\r\n", 5_000), 'too deep'],
    'a line without a name' => ["BEGIN:VCALENDAR\r\nhello\r\nEND:VCALENDAR\r\n", 'a line has no name: hello'],
    'an end alone' => ["BEGIN:VCALENDAR\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n", 'an END has no BEGIN'],
    'thousands of exceptions' => [
        "BEGIN:VCALENDAR\r\n".str_repeat("BEGIN:VEVENT\r\nUID:x\r\nRECURRENCE-ID:20261020T070000Z\r\nEND:VEVENT\r\n", 20_000),
        'VCALENDAR does not end',
    ],
]);
