<?php

declare(strict_types=1);

use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Run\ItemsCarrier;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\Workload;
use App\Sets\Points;
use GuzzleHttp\Client;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\Calendar\CalendarFile;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Contact\ContactFile;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\StandIns\CalendarServer;
use Tests\Support\CalendarSamples;
use Tests\Support\CalendarServerAtWork;
use Tests\Support\CrewCalendars;
use Tests\Support\MailSamples;

/*
 * Calendars and contacts of a real server (Radicale), whose folders are protected as they lie, and which are brought back by CalDAV and
 * CardDAV. What was there at each point was asked of the server itself when the set was made.
 */

beforeEach(function (): void {
    $this->crew = null;
});

afterEach(function (): void {
    $this->crew?->server->remove();
    $this->crew = null;
});

/** @return string the moment of a set */
function instantOf(string $set): string
{
    return Instant::of(BackupSet::query()->where('name', $set)->firstOrFail()->captured_at)->iso();
}

/** A series of Tuesdays at nine; with one of its days moved. */
function timetable(string $place, bool $isMoved, string $uid = 'timetable@sorrel.example'): string
{
    return CalendarSamples::folded([
        'BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Sorrel//EN', 'BEGIN:VEVENT', "UID:$uid", 'DTSTAMP:20260601T080000Z',
        'DTSTART;TZID=Europe/Oslo:20261006T090000', 'DTEND;TZID=Europe/Oslo:20261006T100000', 'RRULE:FREQ=WEEKLY;COUNT=12',
        'SUMMARY:Timetable', "LOCATION:$place", 'END:VEVENT',
        ...($isMoved ? [
            'BEGIN:VEVENT', "UID:$uid", 'DTSTAMP:20260601T080000Z', 'RECURRENCE-ID;TZID=Europe/Oslo:20261020T090000',
            'DTSTART;TZID=Europe/Oslo:20261022T133000', 'DTEND;TZID=Europe/Oslo:20261022T160000', 'SUMMARY:With the pilots', 'END:VEVENT',
        ] : []),
        'END:VCALENDAR',
    ]);
}

/** Lays an object into a calendar of Ada's, in place of what is there. */
function layFor(CrewCalendars $crew, string $file, string $object, string $collection = 'work',
    ItemSort $sort = ItemSort::Appointment): void
{
    $home = $crew->server->open(CrewCalendars::ADA);
    $href = ($home->collection($collection, $sort)->href ?? '').$file;
    $home->put($href, $object, $sort, $home->entry($href)?->etag);
}

it('knows each appointment and contact at each point, and brings every point back', function (int $seed): void {
    $this->crew = $crew = new CrewCalendars($this, $seed);
    $crew->live(20);
    $crew->protect('full');
    foreach (['incr', 'incr', 'diff'] as $level) {
        $crew->live(10);
        $crew->protect($level);
    }
    $crew->known();
    foreach ($crew->then as $set => $there) {
        $browsed = $this->told(0, 'browse', CrewCalendars::WORKLOAD, '--at='.instantOf($set));
        $counts = [];
        foreach ($browsed['folders'] as $row) {
            $counts[$row['mailbox'].'/'.explode('/', $row['folder'], 2)[1]] = $row['items'];
        }
        expect($counts)->toEqualCanonicalizing(array_map(count(...), $there));
        $told = $this->told(
            0, 'restore', CrewCalendars::WORKLOAD, "--point=$set", '--mailbox='.CrewCalendars::ADA, '--to-mailbox='.CrewCalendars::SPARE,
        );
        $ada = array_filter($there, fn (string $folder): bool => str_starts_with($folder, CrewCalendars::ADA), ARRAY_FILTER_USE_KEY);
        expect($crew->now(CrewCalendars::SPARE, CrewCalendars::ADA))->toEqualCanonicalizing($ada)
            ->and($told['entries'])->toBe(array_sum(array_map(count(...), $ada)))
            ->and(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
        $this->told(0, 'put-back', (string) $told['run']);
        expect($crew->now(CrewCalendars::SPARE))->toBe([]);
    }
    // Found anew from the archives it is the same.
    $rows = fn (): array => DB::table('items')->orderBy('identity')->get(['identity', 'kind', 'subject', 'sent_at', 'details'])->toArray();
    $before = $rows();
    $workload = Workload::query()->where('name', CrewCalendars::WORKLOAD)->firstOrFail();
    ItemCatalog::forget($workload);
    ItemCatalog::bringUpToDate($workload);
    expect($rows())->toEqual($before)->and(DB::table('item_times')->count())->toBeGreaterThan(0);
})->with(deeper([1, 2]));

it('brings one day of a series back into the series as it is now, and puts that back too', function (): void {
    $this->crew = $crew = new CrewCalendars($this, 3);
    layFor($crew, 'timetable.ics', timetable('Office', true));
    $set = $crew->protect('full');
    layFor($crew, 'timetable.ics', timetable('Long table', false));
    $crew->protect('incr');
    $crew->known();
    $found = $this->told(0, 'find', CrewCalendars::WORKLOAD, 'kind:appointment', '--at='.instantOf($set))['items'];
    expect($found)->toHaveCount(1)->and($found[0]['repeats'])->toBe('every week, 12 times')->and($found[0]['exceptions'])->toBe(1);
    $told = $this->told(0, 'restore', CrewCalendars::WORKLOAD, "--point=$set", "--item={$found[0]['id']}@20261020T070000Z", '--in-place');
    $now = CalendarObject::of($crew->entries(CrewCalendars::ADA, 'work')[0]->bytes);
    expect($now->main?->text('LOCATION'))->toBe('Long table')
        ->and($now->exceptions)->toHaveCount(1)
        ->and($now->exceptions[0]->text('SUMMARY'))->toBe('With the pilots')
        ->and($told['set_aside'])->toBe(1);
    // Python sees the day where it was.
    $program = 'import json, sys, icalendar; c = icalendar.Calendar.from_ical(json.load(sys.stdin)); '.
        'print(json.dumps([str(e.decoded("DTSTART")) for e in c.walk("VEVENT") if "RECURRENCE-ID" in e]))';
    expect(MailSamples::python($program, $now->bytes))->toBe(['2026-10-22 13:30:00+02:00']);
    // Once more: it is there, and nothing is laid.
    $again = $this->told(0, 'restore', CrewCalendars::WORKLOAD, "--point=$set", "--item={$found[0]['id']}@20261020T070000Z", '--in-place');
    expect([$again['entries'], $again['there_already']])->toBe([0, 1]);
    $this->told(0, 'put-back', (string) $told['run']);
    expect($crew->entries(CrewCalendars::ADA, 'work')[0]->bytes)->toContain('Long table')->not->toContain('pilots');
});

it('replaces a contact that says something else now, sets that aside, and leaves it where it was changed since', function (): void {
    $this->crew = $crew = new CrewCalendars($this, 4);
    $was = $crew->samples->contact('yard');
    layFor($crew, 'yard.vcf', $was, 'people', ItemSort::Contact);
    $set = $crew->protect('full');
    layFor($crew, 'yard.vcf', $merged = $crew->samples->contact('yard'), 'people', ItemSort::Contact);
    $crew->protect('incr');
    $crew->known();
    $id = substr(bin2hex(ItemSort::Contact->identityOf($was)), 0, 16);
    $order = ['restore', CrewCalendars::WORKLOAD, "--point=$set", "--item=$id", '--in-place'];
    $now = fn (): array => $crew->now(CrewCalendars::ADA)[CrewCalendars::ADA.'/people'];
    $left = $this->told(0, ...$order);
    expect($left['left_out'][0]['because'])->toContain('something else is there')
        ->and($now())->toBe([bin2hex(ItemSort::Contact->identityOf($merged))]);
    $told = $this->told(0, ...[...$order, '--conflict=replace']);
    expect($now())->toBe([bin2hex(ItemSort::Contact->identityOf($was))])
        ->and(Run::query()->findOrFail($told['run'])->set_aside_until)->not->toBeNull();
    $this->told(0, 'put-back', (string) $told['run']);
    expect($now())->toBe([bin2hex(ItemSort::Contact->identityOf($merged))]);
    // Beside it comes under a name of its own, once.
    $beside = $this->told(0, ...[...$order, '--conflict=beside']);
    expect($now())->toHaveCount(2);
    // Somebody changes what came: it is theirs from then on.
    $came = array_values(array_filter(
        $crew->entries(CrewCalendars::ADA, 'people', ItemSort::Contact),
        fn ($entry): bool => str_contains($entry->bytes, '-back-'),
    ))[0];
    $changed = str_replace('5550', '5551', $came->bytes);
    $crew->server->open(CrewCalendars::ADA)->put($came->href, $changed, ItemSort::Contact, $came->etag);
    $told = $this->kaiseki('put-back', (string) $beside['run'], '--json')->json();
    expect($told['left'][0]['because'])->toBe('it was changed since')->and($now())->toHaveCount(2);
});

it('goes on after it was killed, and lays nothing twice', function (): void {
    $this->crew = $crew = new CrewCalendars($this, 5);
    $crew->live(30);
    $set = $crew->protect('full');
    $crew->known();
    $run = Run::query()->create([
        'workload_id' => Workload::query()->where('name', CrewCalendars::WORKLOAD)->value('id'),
        'set_id' => BackupSet::query()->where('name', $set)->value('id'),
        'state' => 'queued',
        'plan' => [
            'selection' => ['items' => [], 'query' => '', 'mailbox' => CrewCalendars::ADA, 'folder' => null, 'vanishedBy' => ''],
            'server' => 'crew', 'mailbox' => CrewCalendars::SPARE, 'folder' => '', 'conflict' => 'missing-only', 'target' => '',
            'form' => 'eml',
            'sentence' => 'all of it', 'use' => [], 'avoid' => [],
        ],
        'is_whole' => false,
    ]);
    $laid = 0;
    // The server is gone after some of it, for longer than the run waits; then it is there again.
    $stop = function (string $told) use ($crew, &$laid): void {
        if (++$laid === 1) {
            $crew->server->kill();
        }
    };
    (new ItemsCarrier($stop))->carryOut($run);
    expect($run->refresh()->state)->toBe('failed')->and($run->failure)->toContain('does not answer');
    $crew->server->begin();
    $there = array_sum(array_map(count(...), $crew->now(CrewCalendars::SPARE)));
    $run->update(['state' => 'queued', 'stop_asked' => false]);
    (new ItemsCarrier)->carryOut($run->refresh());
    $ada = array_filter($crew->then[$set], fn (string $of): bool => str_starts_with($of, CrewCalendars::ADA), ARRAY_FILTER_USE_KEY);
    expect($run->refresh()->state)->toBe('done')
        ->and($run->outcome['right'])->toBeTrue()
        ->and($crew->now(CrewCalendars::SPARE, CrewCalendars::ADA))->toEqualCanonicalizing($ada)
        ->and($there)->toBeLessThan(array_sum(array_map(count(...), $ada)));
});

it('gives files that Python reads, one for each or one for each calendar', function (string $as): void {
    $this->crew = $crew = new CrewCalendars($this, 6);
    $crew->live(25);
    $set = $crew->protect('full');
    $to = $this->scratch()->path.'/back';
    $told = $this->told(0, 'restore', CrewCalendars::WORKLOAD, "--point=$set", '--mailbox='.CrewCalendars::ADA, "--to=$to", "--as=$as");
    expect($told['entries'])->toBeGreaterThan(10)->and(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
    $found = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($to, FilesystemIterator::SKIP_DOTS)) as $file) {
        $bytes = (string) file_get_contents($file->getPathname());
        $sort = $file->getExtension() === 'vcf' ? ItemSort::Contact : ItemSort::Appointment;
        $each = $sort === ItemSort::Contact
            ? array_map(fn (array $of): string => substr($bytes, ...$of), ContactFile::cards($bytes))
            : CalendarFile::objects($bytes);
        $collection = $as === 'ics' ? basename($file->getFilename(), ".{$file->getExtension()}") : basename($file->getPath());
        $found[CrewCalendars::ADA."/$collection"] = [
            ...$found[CrewCalendars::ADA."/$collection"] ?? [],
            ...array_map(fn (string $one): string => bin2hex($sort->identityOf($one)), $each),
        ];
        $program = 'import json, sys, vobject; print(json.dumps([len(list(vobject.readComponents(json.load(sys.stdin))))]))';
        expect(MailSamples::python($program, $bytes)[0])->toBe($sort === ItemSort::Contact ? count($each) : 1);
    }
    array_walk($found, fn (array &$all) => sort($all));
    expect($found)->toEqualCanonicalizing(
        array_filter($crew->then[$set], fn (string $of): bool => str_starts_with($of, CrewCalendars::ADA), ARRAY_FILTER_USE_KEY),
    );
})->with(['eml', 'ics']);

it('is found by the day on which it takes place, and by what it is', function (): void {
    $this->crew = $crew = new CrewCalendars($this, 7);
    layFor($crew, 'timetable.ics', timetable('Office; upper floor', true));
    layFor($crew, 'yard.vcf', CalendarSamples::folded([
        'BEGIN:VCARD', 'VERSION:3.0', 'UID:yard', 'N:Arrieta;Inés;;;', 'FN:Inés Arrieta', 'ORG:Westwick Slips',
        'EMAIL:yard@westwick-slips.example', 'TEL;TYPE=WORK:+47 555 50 142', 'ADR:;;Quay 3;Boathouse;;;', 'END:VCARD',
    ]), 'people', ItemSort::Contact);
    $crew->protect('full');
    $count = fn (string $line): int => count($this->told(0, 'find', CrewCalendars::WORKLOAD, $line)['items']);
    foreach ([
        'on:2026-10-22' => 1, 'on:2026-10-20' => 0, 'on:2026-10-27' => 1, 'on:2026-10-28' => 0, 'after:2026-12-31' => 0,
        'before:2026-10-06' => 0, 'kind:appointment' => 1, 'kind:contact' => 1, 'kind:contact kind:appointment' => 2, 'kind:message' => 0,
        'folder:people' => 1, 'mailbox:ada kind:contact' => 1,
    ] as $line => $expected) {
        expect($count($line))->toBe($expected, $line);
    }
});

it('finds several in one file, and takes a file for a calendar by what is in it', function (): void {
    $scratch = $this->scratch();
    $folder = "{$scratch->path}/export";
    $samples = new CalendarSamples(11);
    $objects = array_map(fn (): string => $samples->appointment(), range(1, 12));
    $cards = array_map(fn (): string => $samples->contact(), range(1, 7));
    $scratch->file('export/ines/work.ics', CalendarFile::together($objects));
    $scratch->file('export/ines/friends.vcf', implode('', $cards));
    $scratch->file('export/ines/notes.ics', 'no calendar');
    $set = $this->told(0, 'protect', 'export', "--mail=$folder", '--level=full')['set'];
    $at = instantOf($set);
    $folders = array_column($this->told(0, 'browse', 'export', "--at=$at")['folders'], 'items', 'folder');
    expect($folders)->toBe(['Calendars/work' => 12, 'Contacts/friends' => 7]);
    $entries = $this->told(0, 'browse', 'export', "--at=$at", '--mailbox=ines', '--folder=Calendars/work')['entries'];
    $workload = Workload::query()->where('name', 'export')->firstOrFail();
    $source = fn (string $id): string => (string) (new ItemReader(new Points($workload)))->one(ItemFinder::named($workload, $id)->id ?? 0);
    foreach ($entries as $entry) {
        $object = CalendarObject::of($source($entry['id']));
        expect(bin2hex($object->identity()))->toBe($entry['digest'])->and($object->uid())->toBe($entry['uid']);
    }
    $card = $this->told(0, 'find', 'export', 'kind:contact', "--at=$at")['items'][0];
    expect($this->told(0, 'item', 'export', $card['id'])['fields'])->not->toBe([])
        ->and(in_array($source($card['id']), $cards, true))->toBeTrue();
});

it('says what to do where the server keeps none, has no such mailbox, or would write to people', function (): void {
    $this->crew = $crew = new CrewCalendars($this, 8);
    layFor($crew, 'timetable.ics', timetable('Office', false));
    $set = $crew->protect('full');
    $server = $crew->known();
    $order = ['restore', CrewCalendars::WORKLOAD, "--point=$set", '--mailbox='.CrewCalendars::ADA];
    $gone = $this->kaiseki(...[...$order, '--to-mailbox=nobody@sorrel.example', '--json'])->json();
    expect($gone['error'])->toContain('HTTP 404')->toContain('choose another mailbox, or take files');
    (new Client)->request('MKCALENDAR', $crew->server->address().rawurlencode(CrewCalendars::SPARE).'/tasks/', [
        'auth' => [CalendarServer::MASTER, CalendarServerAtWork::PASSWORD],
        'body' => '<C:mkcalendar xmlns="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><set><prop><C:supported-calendar-component-set>'.
            '<C:comp name="VTODO"/></C:supported-calendar-component-set></prop></set></C:mkcalendar>',
    ]);
    $tasks = $this->kaiseki(...[...$order, '--to-mailbox='.CrewCalendars::SPARE, '--to-folder=Calendars/tasks', '--json'])->json();
    expect($tasks['error'])->toContain('tasks is no calendar for 1 appointment');
    $server->update(['dav' => '', 'imap' => 'imap://127.0.0.1:9']);
    expect($this->kaiseki(...[...$order, '--in-place', '--json'])->json()['error'])->toContain(
        'is not known to keep any: bin/kaiseki mail-server add crew --dav=');
    expect($this->kaiseki('restore', CrewCalendars::WORKLOAD, "--point=$set", '--item=0123456789abcdef@tuesday',
        '--in-place')->code)->toBe(2);
});
