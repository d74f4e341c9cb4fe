<?php

declare(strict_types=1);

use App\Jobs\SealTrail;
use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\Workload;
use App\Trail\TrailCheck;
use App\Trail\TrailSeals;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Trail\Seal;
use Tests\Support\Desk;

// Who did, saw or tried what; and that nobody changes it afterwards without its being found.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('pay/salaries.csv', 'secret figures'), fn ($a) => $a->put('later', 'x'));
    $this->auditor = $this->desk->person(Role::Auditor);
    $this->last = fn (): TrailEntry => TrailEntry::query()->latest('id')->firstOrFail();
    $this->write = function (int $count): void {
        for ($i = 1; $i <= $count; $i++) {
            TrailEntry::add("Deed $i was done.", null, $this->desk->operator);
        }
    };
    $this->at = function (string $moment, callable $do): void {
        $this->travelTo(CarbonImmutable::parse($moment));
        $do();
        $this->travelBack();
    };
});

it('keeps who, from where, by which way, about what and with what result', function (): void {
    $desk = $this->desk;
    $this->post('/sign-in', ['email' => $desk->operator->email, 'password' => 'not this one']);
    expect(($this->last)()->only('sort', 'result', 'way', 'address', 'actor', 'user_id'))->toBe([
        'sort' => TrailSort::SignIn, 'result' => 'refused', 'way' => 'page', 'address' => '127.0.0.1', 'actor' => 'nobody',
        'user_id' => null,
    ])->and(($this->last)()->what)->toContain($desk->operator->email);
    $this->post('/sign-in', ['email' => 'my-password-1234', 'password' => 'x']);
    $this->post('/sign-in', ['email' => 'nobody@sorrelsound.example', 'password' => 'x']);
    expect(($this->last)()->what)->toBe("An address was tried that is nobody's.");
    $this->post('/sign-in', ['email' => $desk->operator->email, 'password' => 'tide-table-9'])->assertRedirect('/');
    expect(($this->last)()->only('result', 'actor'))->toBe(['result' => 'done', 'actor' => $desk->operator->email]);
    $set = $desk->set(0);
    $reads = [
        "/sets/{$set->id}/file?path=tree/pay/salaries.csv" => 'Took tree/pay/salaries.csv as it was in',
        "/sets/{$set->id}/look?path=tree/pay/salaries.csv" => 'Looked at tree/pay/salaries.csv as it was in',
        '/search?q=salaries' => 'Searched across what is stored: q=salaries',
    ];
    foreach ($reads as $page => $told) {
        $this->get($page)->assertOk();
        expect(($this->last)()->sort)->toBe(TrailSort::Content)->and(($this->last)()->what)->toStartWith($told)
            ->and(($this->last)()->user_id)->toBe($desk->operator->id);
    }
    $this->post('/sign-out');
    expect(($this->last)()->what)->toBe("{$desk->operator->email} signed out.");
    $before = TrailEntry::query()->count();
    $this->get("/sets/{$set->id}/file?path=tree/pay/salaries.csv")->assertRedirect();
    expect(TrailEntry::query()->count())->toBe($before);
});

it('says of the terminal and of jobs that they are none of a page', function (): void {
    TrailEntry::add('From a terminal.', null, null);
    expect(($this->last)()->only('way', 'address'))->toBe(['way' => 'terminal', 'address' => null])
        ->and(($this->last)()->actor)->toStartWith('account ');
    Queue::connection('sync')->push(fn () => TrailEntry::add('From a job.', null, null));
    expect(($this->last)()->only('way', 'actor'))->toBe(['way' => 'job', 'actor' => 'the desk']);
    TrailEntry::add('After it.', null, null);
    expect(($this->last)()->way)->toBe('terminal');
});

it('seals what is new once, and finds all as it was', function (): void {
    ($this->write)(5);
    (new SealTrail)->handle();
    ($this->write)(2);
    expect(TrailSeals::bringUpToDate())->toBe(2)->and(TrailSeals::bringUpToDate())->toBe(0);
    TrailEntry::add('Not sealed yet.', null, null);
    $told = $this->kaiseki('trail', 'check', '--json');
    expect($told->code)->toBe(0)->and($told->json())->toMatchArray([
        'right' => true, 'entries' => TrailEntry::query()->count() - 1, 'not_sealed_yet' => 1, 'wrong' => 0,
    ]);
});

it('seals an entry that becomes visible after a later one', function (): void {
    ($this->write)(1);
    $late = (array) DB::table('trail')->orderByDesc('id')->first();
    DB::table('trail')->where('id', $late['id'])->delete();
    ($this->write)(1);
    TrailSeals::bringUpToDate();
    DB::table('trail')->insert($late);
    expect(TrailSeals::bringUpToDate())->toBe(1)->and(TrailCheck::whole()->wrong)->toBe(0);
});

it('finds each entry that was changed, left out, added or put elsewhere', function (callable $harm, string $told): void {
    ($this->write)(9);
    TrailSeals::bringUpToDate();
    $ids = DB::table('trail_seals')->orderBy('number')->pluck('entry_id')->all();
    $harm($ids[count($ids) - 4], $ids[count($ids) - 3]);
    $check = TrailCheck::whole();
    expect($check->wrong)->toBeGreaterThan(0)->and(implode(' ', $check->problems))->toContain($told);
    expect($this->kaiseki('trail', 'check')->code)->toBe(4);
})->with([
    'other words' => [fn (int $a) => DB::table('trail')->where('id', $a)->update(['what' => 'Nothing.']), 'was changed'],
    'another person' => [fn (int $a) => DB::table('trail')->where('id', $a)->update(['user_id' => 999]), 'was changed'],
    'a moment earlier' => [fn (int $a) => DB::table('trail')->where('id', $a)->update(['at' => '2026-01-01 00:00:00']), 'was changed'],
    'left out' => [fn (int $a) => DB::table('trail')->where('id', $a)->delete(), 'is left out'],
    'left out with its seal' => [function (int $a): void {
        DB::table('trail_seals')->where('entry_id', $a)->delete();
        DB::table('trail')->where('id', $a)->delete();
    }, 'is left out'],
    'changed places' => [function (int $a, int $b): void {
        DB::table('trail')->where('id', $a)->update(['id' => 999_999]);
        DB::table('trail')->where('id', $b)->update(['id' => $a]);
        DB::table('trail')->where('id', 999_999)->update(['id' => $b]);
    }, 'put elsewhere'],
    'sealed anew, but only that one' => [function (int $a): void {
        DB::table('trail')->where('id', $a)->update(['what' => 'Nothing.']);
        $row = DB::table('trail')->where('id', $a)->get(App\Trail\TrailRows::columns())->sole();
        $number = DB::table('trail_seals')->where('entry_id', $a)->value('number');
        $before = (string) DB::table('trail_seals')->where('number', $number - 1)->value('seal');
        DB::table('trail_seals')->where('entry_id', $a)->update(['seal' => Seal::of($before, App\Trail\TrailRows::line($row))]);
    }, 'was changed, added or put elsewhere'],
]);

it('signs the end of each day, writes it to the stores, and finds a trail that was written anew as a whole', function (): void {
    $folder = $this->scratch()->folder('ours');
    $this->kaiseki('store-add', 'ours', $folder);
    ($this->at)('2026-11-25 22:00 UTC', function (): void {
        ($this->write)(4);
        TrailSeals::bringUpToDate();
    });
    ($this->at)('2026-11-26 09:00 UTC', function (): void {
        ($this->write)(3);
        TrailSeals::bringUpToDate();
    });
    TrailSeals::bringUpToDate();
    expect(DB::table('trail_days')->pluck('day')->all())->toBe(['2026-11-25', '2026-11-26'])
        ->and(array_map(basename(...), glob("$folder/trail/*") ?: []))->toBe(['2026-11-25.json', '2026-11-26.json'])
        ->and(TrailCheck::whole()->wrong)->toBe(0);
    // Whoever has the database writes all of it anew, with seals that fit, and signs nothing: the key is not there.
    DB::table('trail')->where('what', 'Deed 2 was done.')->delete();
    DB::table('trail_seals')->delete();
    TrailSeals::bringUpToDate();
    expect(implode(' ', TrailCheck::whole()->problems))->toContain('is not the one that was signed')->toContain('database, 2026-11-25');
    // Also where they throw the signed days away: the stores have them.
    DB::table('trail_days')->delete();
    expect(implode(' ', TrailCheck::whole()->problems))->toContain('store ours, 2026-11-25.json');
    file_put_contents("$folder/trail/2026-11-25.json", 'nothing');
    expect(implode(' ', TrailCheck::whole()->problems))->toContain('is no signed end of a day');
});

it('writes the signed days to a store of objects too, and finds there what was changed', function (): void {
    $folder = $this->scratch()->folder('objects');
    $this->kaiseki('store-add', 'objects', $folder, '--kind=object');
    ($this->at)('2026-11-25 22:00 UTC', function (): void {
        ($this->write)(2);
        TrailSeals::bringUpToDate();
    });
    TrailSeals::bringUpToDate();
    expect(TrailCheck::whole()->wrong)->toBe(0)->and(TrailCheck::whole()->days)->toBe(2); // the database's, and the store's
    $object = "$folder/trail/2026-11-25.json";
    file_put_contents($object, str_replace('2026-11-25', '2026-11-24', (string) file_get_contents($object)));
    expect(implode(' ', TrailCheck::whole()->problems))->toContain('store objects');
});

it('keeps the trail as long as its rule says, and tells what went by it from what somebody took', function (): void {
    ($this->at)('2026-07-01 10:00 UTC', function (): void {
        ($this->write)(3);
        TrailSeals::bringUpToDate();
    });
    ($this->write)(2);
    TrailSeals::bringUpToDate();
    $left = fn (): int => DB::table('trail')->where('what', 'like', 'Deed%')->count();
    App\Trail\TrailRule::carryOut();
    expect($left())->toBe(5)->and(App\Trail\TrailRule::days())->toBeNull(); // for ever, until somebody says otherwise
    foreach (['89', '0', 'soon', '-5'] as $wrong) {
        expect($this->kaiseki('trail', 'keep', $wrong)->code)->toBe(2);
    }
    expect($this->kaiseki('trail', 'keep', '90')->code)->toBe(0);
    (new App\Jobs\CheckTrail)->handle();
    expect($left())->toBe(2);
    $check = TrailCheck::whole();
    expect($check->wrong)->toBe(0, implode("\n", $check->problems))->and($check->expired)->toBe(3);
    expect($this->kaiseki('trail', 'check')->text)->toContain('3 entries went by the rule');
    // What is taken later is a hole as ever.
    DB::table('trail')->where('what', 'like', 'Deed%')->orderByDesc('id')->limit(1)->delete();
    expect(TrailCheck::whole()->wrong)->toBe(1);
    $this->kaiseki('trail', 'keep', 'forever');
    expect(App\Trail\TrailRule::days())->toBeNull()->and(DB::table('trail')->where('what', 'like', '%kept for ever%')->count())->toBe(1);
});

it('finds that the end of the trail is missing', function (): void {
    ($this->at)('2026-11-25 22:00 UTC', function (): void {
        ($this->write)(4);
        TrailSeals::bringUpToDate();
    });
    TrailSeals::bringUpToDate();
    DB::table('trail_seals')->orderByDesc('number')->limit(2)->delete();
    expect(implode(' ', TrailCheck::whole()->problems))->toContain('At the end of 2026-11-25 there were');
});

it('shows auditors all of it, by filters, page by page, and nobody else', function (): void {
    ($this->write)(230);
    TrailEntry::add('A wrong <b>thing</b> was tried.', null, null, sort: TrailSort::SignIn, result: 'refused');
    $this->actingAs($this->auditor)->get('/trail')->assertOk()->assertSee('Deed 230 was done.')->assertDontSee('Deed 100 was done.')
        ->assertSee('A wrong &lt;b&gt;thing', false);
    $seen = [];
    for ($url = '/trail?of=Deed'; $url !== null; $url = $next) {
        $page = $this->get($url)->assertOk();
        preg_match_all('/Deed (\d+) was done/', (string) $page->getContent(), $found);
        $seen = [...$seen, ...array_map(intval(...), $found[1])];
        $next = $page->viewData('entries')->nextPageUrl();
    }
    expect($seen)->toBe(range(230, 1));
    $this->get('/trail?result=refused')->assertSee('A wrong')->assertDontSee('Deed 230');
    $this->get('/trail?sort=sign-in')->assertSee('A wrong')->assertDontSee('Deed 230');
    $this->get('/trail?way=job')->assertSee('No entry fits');
    $this->get('/trail?until=2020-01-01')->assertSee('No entry fits');
    $this->get('/trail?from=2020-01-01&of=Deed+17+was')->assertSee('Deed 17 was done.');
    $this->get('/trail?from=yesterday&sort=cheese&way[]=x')->assertStatus(422);
    $this->get('/trail?from=31-31-31&sort=cheese')->assertOk()->assertSee('Deed 230');
    foreach ([Role::Operator, Role::Approver, Role::Requester, Role::Administrator] as $role) {
        $this->actingAs($this->desk->person($role))->get('/trail')->assertForbidden();
        $this->get('/trail.jsonl')->assertForbidden();
    }
});

it('shows an auditor who is limited what is about workloads that they see', function (): void {
    $mine = Workload::query()->create(['name' => 'piers-files', 'kind' => 'files', 'group' => 'piers']);
    $theirs = Workload::query()->where('name', 'crew')->sole();
    TrailEntry::add('Of mine.', null, null, workload: $mine);
    TrailEntry::add('Of theirs.', null, null, workload: $theirs);
    TrailEntry::add('Of nothing in particular.', null, null);
    TrailEntry::add('Of a person.', null, null, sort: TrailSort::Account);
    $this->actingAs($this->desk->person(Role::Auditor, ['piers']))->get('/trail')->assertOk()
        ->assertSee('Of mine.')->assertSee('Of a person.')->assertDontSee('Of theirs.')->assertDontSee('Of nothing in particular.');
    expect($this->get('/trail.jsonl')->streamedContent())->toContain('Of mine.')->not->toContain('Of theirs.');
});

it('gives it as lines of JSON from which the chain can be reckoned again', function (): void {
    ($this->write)(20);
    TrailSeals::bringUpToDate();
    $lines = explode("\n", trim($this->actingAs($this->auditor)->get('/trail.jsonl')->streamedContent()));
    $seal = Seal::FIRST;
    foreach (array_slice($lines, 0, -1) as $line) {
        preg_match('/^\{"entry":(\{.*\}),"sealed":\{"number":\d+,"seal":"([0-9a-f]{64})"\}\}$/', $line, $m);
        $seal = hash('sha256', "$seal\n{$m[1]}");
        expect($seal)->toBe($m[2])->and(json_decode($line, true))->toBeArray();
    }
    expect(end($lines))->toContain('Took the trail.')->toContain('"sealed":null'); // to take it is in it, too
});

it('keeps what an entry tells, whatever becomes of what it is about', function (): void {
    $asked = $this->desk->request->id;
    TrailEntry::add('It was settled.', $this->desk->request, $this->desk->operator);
    TrailSeals::bringUpToDate();
    $this->desk->request->delete();
    $this->desk->operator->delete();
    expect(($this->last)()->request_id)->toBe($asked)->and(TrailCheck::whole()->wrong)->toBe(0);
});
