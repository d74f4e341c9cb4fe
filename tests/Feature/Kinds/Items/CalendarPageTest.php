<?php

declare(strict_types=1);

use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Order\ItemsSheet;
use App\Kinds\Items\Own\OwnRule;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use Kaiseki\Core\Mail\ItemSort;
use Tests\Support\Archives;
use Tests\Support\CalendarSamples;
use Tests\Support\Desk;

// Appointments and contacts on the page of a request, on archives that were adopted.

/** @param  list<string>  $more */
function seriesOf(string $place, array $more = []): string
{
    return CalendarSamples::folded([
        'BEGIN:VCALENDAR', 'VERSION:2.0', 'BEGIN:VEVENT', 'UID:t', 'DTSTART;TZID=Europe/Oslo:20260908T090000',
        'DTEND;TZID=Europe/Oslo:20260908T100000', 'RRULE:FREQ=WEEKLY;COUNT=12', 'SUMMARY:Timetable <b>', "LOCATION:$place",
        'ATTENDEE;CN=Søren Joss;PARTSTAT=ACCEPTED:mailto:galley@sorrel.example', 'DESCRIPTION:Who sails when.', 'END:VEVENT', ...$more,
        'END:VCALENDAR',
    ]);
}

beforeEach(function (): void {
    $archives = new Archives($this->scratch());
    $moved = [
        'BEGIN:VEVENT', 'UID:t', 'RECURRENCE-ID;TZID=Europe/Oslo:20260929T090000', 'DTSTART;TZID=Europe/Oslo:20261001T133000',
        'DTEND;TZID=Europe/Oslo:20261001T160000', 'SUMMARY:With the pilots', 'LOCATION:Gull Ness', 'END:VEVENT',
    ];
    $this->series = seriesOf('Office', $moved);
    $card = fn (string $phone): string => CalendarSamples::folded([
        'BEGIN:VCARD', 'VERSION:3.0', 'UID:c', 'N:Arrieta;Inés;;;', 'FN:Inés Arrieta', "TEL;TYPE=WORK:$phone",
        'PHOTO;ENCODING=b;TYPE=PNG:iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
        'END:VCARD',
    ]);
    $this->contact = $card('+47 1');
    $archives->put('greta/work/t.ics', $this->series)->put('greta/people/c.vcf', $this->contact);
    $archives->put('greta/work/other.ics', str_replace(['UID:t', 'Timetable <b>', 'T09', 'T10'], ['UID:o', 'Stores', 'T14', 'T15'],
        seriesOf('Shed')));
    $archives->dump('full');
    $archives->put('greta/work/t.ics', seriesOf('Long table'))->put('greta/people/c.vcf', $card('+47 2'));
    $archives->dump('incr');
    $this->told(0, 'adopt', $archives->folder, '--as=post', '--kind=items');
    $this->workload = Workload::query()->sole();
    $this->workload->update(['group' => 'crew office', 'zone' => 'Europe/Oslo']);
    Store::query()->get()->each(fn (Store $store) => Desk::belongs($store, 'crew office'));
    $this->operator = $this->person(Role::Operator);
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id, 'requester_id' => $this->person(Role::Requester)->id,
        'summary' => 'A day of a series is gone',
        'reason' => 'Needed', 'wanted_at' => '2026-10-01 18:00:00', 'due_at' => now()->addHour(),
    ])->refresh();
    $this->url = "/requests/{$this->request->id}";
    $key = fn (ItemSort $sort, string $bytes): string => substr(bin2hex($sort->identityOf($bytes)), 0, 16);
    [$this->key, $this->card] = [$key(ItemSort::Appointment, $this->series), $key(ItemSort::Contact, $this->contact)];
    $this->actingAs($this->operator);
});

it('lists a calendar and contacts in their own words', function (): void {
    $this->get("{$this->url}?show=what")->assertOk()->assertSee('Calendars/work')->assertSee('Contacts/people');
    $list = fn (string $folder) => $this->get("{$this->url}?show=what&mailbox=tree/greta&folder=$folder");
    $page = $list('Calendars/work')->assertOk()->assertSee('Begins')->assertSee('every week, 12 times')
        ->assertSee('Timetable &lt;b&gt;', false);
    expect(substr_count((string) $page->getContent(), 'data-row'))->toBe(2);
    $list('Contacts/people')->assertOk()->assertSee('Reached by')->assertSee('+47 1');
});

it('shows an appointment in its week, with what is beside it, and what it says otherwise now', function (): void {
    $this->get("{$this->url}?show=what&item={$this->key}")->assertOk()
        ->assertSee('With the pilots')->assertSee('Gull Ness')->assertSee('changed against its series')
        ->assertSee('Thu 2026-10-01 13:30–16:00')
        ->assertSee('class="week"', false)->assertSee('Stores')->assertSee('Pick this day only')
        ->assertSee('What the newest state says otherwise')
        ->assertSee('Long table')->assertSee('Søren Joss')->assertSee('Only of the day that the series has on Tue 2026-09-29 09:00')
        ->assertDontSee('Timetable <b>', false);
    $this->get("{$this->url}?show=what&item={$this->key}&day=20260908T070000Z")->assertOk()
        ->assertSee('Tue 2026-09-08 09:00–10:00')->assertSee('Who sails when.')->assertDontSee('changed against its series');
    $this->get("{$this->url}?show=what&item={$this->key}&day=nonsense")->assertOk()->assertSee('With the pilots');
});

it('picks one day of a series, and says so in the order', function (): void {
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'only', 'item' => "{$this->key}@20260929T070000Z"])
        ->assertSessionHasNoErrors();
    $sheet = new ItemsSheet($this->request->refresh());
    expect($sheet->chosen)->toHaveCount(1)->and($sheet->chosen[0]->instance)->toBe('20260929T070000Z')
        ->and($sheet->sentence('UTC'))->toContain('the appointment "Timetable <b>" only of Tue 29 Sep 2026 09:00')
        ->toContain('leaving the rest of its series as it is now')
        ->toContain('field by field');
    $this->get("{$this->url}?show=what&item={$this->key}&day=20260929T070000Z")
        ->assertSee('This day is picked, without the rest of its series.');
    $this->get("{$this->url}?show=preview")->assertOk()->assertSee('1 appointment');
    $this->post("{$this->url}/items", ['settle' => 'how', 'conflict' => 'replace'])->assertSessionHasNoErrors();
    expect(ItemsSaid::of($this->request->refresh())->conflict)->toBe('replace');
    $this->post("{$this->url}/items", ['settle' => 'pick', 'pick' => 'drop', 'item' => "{$this->key}@20260929T070000Z"]);
    expect((new ItemsSheet($this->request->refresh()))->chosen)->toBe([]);
});

it('shows a contact as a card, its picture drawn anew, and what the newest says otherwise', function (): void {
    $page = $this->get("{$this->url}?show=what&item={$this->card}")->assertOk()
        ->assertSee('+47 1')->assertSee('+47 2')->assertSee('Pick this contact')->assertSee('data:image/png;base64,', false);
    expect((string) $page->getContent())->not->toContain('mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==');
    $this->request->update(['set_id' => BackupSet::query()->orderByDesc('instant')->value('id')]);
    $this->get("{$this->url}?show=what&item={$this->card}")->assertSee('It is not at the point in hand');
});

it('hands the source out as a file, which leaves its line in the trail, and is no letter', function (): void {
    $source = $this->get("{$this->url}/items/{$this->key}/source")->assertOk()->assertHeader('Content-Disposition');
    expect($source->getContent())->toBe($this->series)
        ->and($source->headers->get('Content-Type'))->toContain('text/calendar')
        ->and($source->headers->get('Content-Disposition'))->toContain('attachment')
        ->and(TrailEntry::query()->latest('id')->first()->what ?? '')->toContain("the appointment {$this->key}");
    $this->get("{$this->url}/items/{$this->key}/letter")->assertNotFound();
    $this->get("{$this->url}/items/{$this->card}/part/0")->assertNotFound();
});

it('is opened by the person whose it is, with its days, its week and its states', function (): void {
    OwnRule::settle($this->workload, 10, 10, null);
    $greta = $this->person(Role::Requester, ['crew office']);
    $this->told(0, 'own-items', 'give', 'post', '--mailbox=tree/greta', "--person={$greta->email}");
    $this->actingAs($greta);
    $own = "/own/{$this->workload->id}?mailbox=".urlencode('tree/greta');
    // The states of before are gone from it, since they say something else now.
    $list = $this->get($own)->assertOk()->assertSee('changed since');
    foreach ([$this->key, $this->card] as $key) {
        expect((string) $list->getContent())->toContain($key);
    }
    $page = $this->get("$own&item={$this->key}")->assertOk()->assertSee('Gull Ness')->assertSee('Bring back this day only')
        ->assertSee('What the newest state says otherwise')->assertSee('class="week"', false);
    preg_match('/name="items" value="([0-9a-f]{16}@[0-9TZ]+)"/', (string) $page->getContent(), $day);
    $this->get("/own/{$this->workload->id}/order?".http_build_query(['mailbox' => 'tree/greta', 'items' => $day[1]]))->assertOk()
        ->assertSee('only of')->assertSee('no server is known that it is on')->assertDontSee('Yes, bring back');
    $this->get("$own&item={$this->card}")->assertOk()->assertSee('+47 1')->assertSee('Bring back this');
});
