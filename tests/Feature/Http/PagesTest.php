<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Jobs\ResumeAbandonedRuns;
use App\Kinds\Files\Order\FilesSaid;
use App\Kinds\Files\Order\Worksheet;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Tests\Support\Archives;

beforeEach(function (): void {
    $this->withoutVite();
    $this->archives = (new Archives($this->scratch()))
        ->put('rosters/week-47.csv', 'the good one')
        ->put('rosters/old.csv', 'old')
        ->put("odd <b>name\n", 'odd');
    $this->full = $this->archives->dump('full');
    $this->archives->put('rosters/week-47.csv', '');
    $this->incr = $this->archives->dump('incr');
    $this->kaiseki('adopt', $this->archives->folder, '--as=crew');
    $this->live = $this->scratch()->folder('hosts/crew/files');
    file_put_contents("{$this->live}/own", 'live');
    Workload::query()->update(['source' => $this->live, 'group' => 'crew office']);
    $this->operator = $this->person(Role::Operator);
    $this->requester = $this->person(Role::Requester);
    $this->request = RecoveryRequest::query()
        ->create([
            'workload_id' => Workload::query()->value('id'),
            'requester_id' => $this->requester->id,
            'summary' => 'The roster is empty',
            'reason' => 'Shifts',
            'lost' => '/tree/rosters/week-47.csv',
            'wanted_at' => '2026-10-01 18:00:00',
            'due_at' => now()->addHour(),
        ])
        ->refresh();
    $this->url = "/requests/{$this->request->id}";
    $this->select = fn (string $path) => $this->actingAs($this->operator)->post("{$this->url}/selection", [
        'path' => rawurlencode($path),
        'do' => 'only',
    ]);
});

it('lets nobody in who has not signed in', function (string $page): void {
    $this->get($page)->assertRedirect('/sign-in');
})->with(['/', '/estate', '/stores', '/proofs', '/requests/1', '/runs/1', '/search']);

it('signs in with the right password only, and slows guessing down', function (): void {
    $try = fn (string $password) => $this->post('/sign-in', ['email' => $this->operator->email, 'password' => $password]);
    $try('wrong')->assertSessionHasErrors('email');
    $this->assertGuest();
    $try('tide-table-9')->assertRedirect('/');
    $this->assertAuthenticated();
    $this->post('/sign-out');
    $this->assertGuest();
    foreach (range(1, 5) as $_) {
        $try('wrong');
    }
    expect($try('tide-table-9')->getSession()->get('errors')->first())->toContain('Too many tries');
    $this->assertGuest();
});

it('shows each role what is its own', function (): void {
    $other = $this->person(Role::Requester);
    $elsewhere = $this->person(Role::Operator, ['fares']);
    $auditor = $this->person(Role::Auditor);
    $this->actingAs($this->operator)->get($this->url)->assertOk()->assertSee('Run <kbd>', false);
    $this->actingAs($this->requester)->get($this->url)->assertOk()->assertDontSee('Run <kbd>', false);
    $this->actingAs($other)->get($this->url)->assertForbidden();
    $this->actingAs($elsewhere)->get($this->url)->assertForbidden();
    $this->actingAs($elsewhere)->get('/')->assertOk()->assertDontSee('The roster is empty');
    $this->actingAs($elsewhere)->get('/estate')->assertDontSee('crew');
    $this->actingAs($auditor)->get($this->url)->assertOk();
    foreach (['selection', 'moment', 'point', 'demands', 'destination', 'how', 'run', 'workload'] as $deed) {
        foreach ([$this->requester, $auditor, $elsewhere, $this->person(Role::Approver)] as $person) {
            $this->actingAs($person)
                ->post("{$this->url}/$deed")
                ->assertForbidden();
        }
    }
    $this->actingAs($auditor)->get('/requests/new')->assertForbidden();
    $set = BackupSet::query()->where('name', $this->full)->value('id');
    $this->actingAs($this->requester)
        ->get("/sets/$set/file?path=tree/rosters/old.csv")
        ->assertForbidden();
});

it('chooses the point, tells the loss, and takes another by hand', function (): void {
    $sheet = new Worksheet($this->request);
    expect($sheet->point?->name)
        ->toBe($this->full)
        ->and($sheet->lossSeconds())
        ->toBe(16 * 3600);
    $other = BackupSet::query()->where('name', $this->incr)->sole();
    $this->actingAs($this->operator)
        ->post("{$this->url}/point", ['set' => $other->id])
        ->assertRedirect();
    expect((new Worksheet($this->request->refresh()))->point?->name)->toBe($this->incr);
    $this->get("{$this->url}?show=when")
        ->assertSee('your choice')
        ->assertSee('nothing before it');
    $this->post("{$this->url}/moment", ['wanted_at' => '2026-10-03 12:00']);
    expect($this->request->refresh()->set_id)
        ->toBeNull()
        ->and($this->request->wanted_at->toIso8601String())
        ->toBe('2026-10-03T10:00:00+00:00');
    $this->post("{$this->url}/moment", ['wanted_at' => 'soon'])->assertSessionHasErrors('wanted_at');
    $this->post("{$this->url}/demands", ['demand' => 'checked']);
    $this->get("{$this->url}?show=when")
        ->assertSee('no usable point')
        ->assertSee('no copy of it was read back');
    $this->post("{$this->url}/point", ['set' => 999_999])->assertNotFound();
});

it('picks, unpicks, and shows names from outside as text', function (): void {
    $this->actingAs($this->operator)
        ->get("{$this->url}?show=what")
        ->assertSee('Picked already, since it was asked for and is there')
        ->assertSee('data-key="x"', false);
    expect(FilesSaid::of($this->request->refresh())->paths())->toBe([]); // nothing is kept by looking
    $this->post("{$this->url}/selection", ['path' => 'tree/rosters/week-47.csv', 'do' => 'turn']);
    $this->get("{$this->url}?show=what")->assertSee('something not picked yet')->assertSee('Asked for, and there');
    ($this->select)('tree/rosters');
    expect(FilesSaid::of($this->request->refresh())->paths())->toBe(['tree/rosters']);
    $this->get("{$this->url}?show=what&folder=tree")
        ->assertSee('odd &lt;b&gt;name\n', false)
        ->assertDontSee('<b>name', false)
        ->assertSee('2 files');
    $this->post("{$this->url}/selection", ['path' => rawurlencode("tree/odd <b>name\n"), 'do' => 'turn']);
    expect(FilesSaid::of($this->request->refresh())->paths())->toBe(["tree/odd <b>name\n", 'tree/rosters']);
    $this->post("{$this->url}/selection", ['path' => 'tree/rosters', 'do' => 'turn']);
    $this->post("{$this->url}/selection", ['path' => '..%2F..%2Fetc', 'do' => 'turn'])->assertSessionHasErrors('path');
    $this->post("{$this->url}/selection", ['path' => '', 'do' => 'clear']);
    expect(FilesSaid::of($this->request->refresh())->paths())->toBe([]);
    $this->get("{$this->url}?show=what&folder=../..")
        ->assertOk()
        ->assertSee('tree/');
});

it('says what stands in the way, all of it', function (): void {
    $this->actingAs($this->operator)->post("{$this->url}/selection", ['path' => '', 'do' => 'clear']);
    $this->get("{$this->url}?show=run")->assertSee('Nothing is picked yet.');
    ($this->select)('tree/rosters/week-48.csv');
    $this->get("{$this->url}?show=run")->assertSee('is not in this point');
    $this->post("{$this->url}/destination", ['destination' => 'folder', 'folder' => '', 'conflict' => 'beside'])->assertSessionHasErrors(
        'folder',
    );
    $this->post("{$this->url}/destination", [
        'destination' => 'folder',
        'folder' => '../../etc',
        'conflict' => 'beside',
    ])->assertSessionHasErrors('folder');
    $this->post("{$this->url}/destination", [
        'destination' => 'folder',
        'folder' => '/no/such/place',
        'conflict' => 'beside',
    ])->assertSessionHasNoErrors();
    expect(implode(' ', (new Worksheet($this->request->refresh()))->blockers))->toContain('does not exist');
});

it('runs exactly the order that was shown', function (): void {
    Queue::fake();
    ($this->select)('tree/rosters/week-47.csv');
    $shown = (new Worksheet($this->request->refresh()))->fingerprint();
    $this->post("{$this->url}/destination", ['destination' => 'own-place', 'conflict' => 'replace']);
    $this->post("{$this->url}/run", ['order' => $shown])->assertSessionHasErrors('run');
    expect(Run::query()->count())->toBe(0);
    $this->post("{$this->url}/run", ['order' => (new Worksheet($this->request->refresh()))->fingerprint()])->assertRedirect(
        "{$this->url}?show=proof",
    );
    Queue::assertPushed(CarryOutRun::class);
    // A second confirmation finds the first at work.
    $this->post("{$this->url}/run", ['order' => (new Worksheet($this->request->refresh()))->fingerprint()])->assertSessionHasErrors('run');
    expect(Run::query()->count())
        ->toBe(1)
        ->and($this->request->refresh()->state)
        ->toBe('running');
});

it('goes from the request to the proof and the closing', function (): void {
    ($this->select)('tree/rosters/week-47.csv');
    $this->get("{$this->url}?show=preview")->assertSee('What happens');
    $this->post("{$this->url}/run", ['order' => (new Worksheet($this->request->refresh()))->fingerprint()]);
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('done', (string) $run->failure);
    expect(file_get_contents("{$this->scratch()->path}/hosts/crew/restored/request-{$this->request->id}/tree/rosters/week-47.csv"))->toBe(
        'the good one',
    );
    $this->get("{$this->url}?show=proof")->assertSee('all of it is right');
    $this->get("/runs/{$run->id}/manifest")
        ->assertOk()
        ->assertDownload();
    $this->get("/runs/{$run->id}/proof")->assertOk();
    $this->actingAs($this->requester)->get($this->url)->assertSee('Is it right?');
    $this->post("{$this->url}/answer", ['answer' => 'no', 'words' => ''])->assertSessionHasErrors('words');
    $this->post("{$this->url}/answer", ['answer' => 'no', 'words' => 'It is the wrong week'])->assertRedirect();
    expect($this->request->refresh()->state)->toBe('open');
    $this->request->update(['state' => 'answer']);
    $this->post("{$this->url}/answer", ['answer' => 'yes'])->assertRedirect();
    expect($this->request->refresh()->state)->toBe('closed');
    $this->post("{$this->url}/answer", ['answer' => 'yes'])->assertForbidden();
    $this->actingAs($this->operator)
        ->post("{$this->url}/how", ['layout' => 'flat'])
        ->assertForbidden();
    expect(TrailEntry::query()->pluck('what')->implode("\n"))
        ->toContain('was ordered')
        ->toContain('It is the wrong week')
        ->toContain('the request is closed');
});

it('shows a run that failed with what was done and what was not', function (): void {
    ($this->select)('tree/rosters/week-47.csv');
    $this->post("{$this->url}/run", ['order' => (new Worksheet($this->request->refresh()))->fingerprint()]);
    $run = Run::query()->sole();
    foreach (glob("{$this->archives->folder}/*") ?: [] as $file) {
        unlink($file);
    }
    (new CarryOutRun($run->id))->handle();
    $this->get("{$this->url}?show=proof")
        ->assertSee('failed')
        ->assertSee('Nothing was put in place')
        ->assertSee('no archive that can be read');
    expect($this->request->refresh()->state)->toBe('open');
});

it('stops a run that was asked to stop, and touches nothing', function (): void {
    ($this->select)('tree/rosters');
    $this->post("{$this->url}/run", ['order' => (new Worksheet($this->request->refresh()))->fingerprint()]);
    $run = Run::query()->sole();
    $this->post("/runs/{$run->id}/stop")->assertRedirect();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('stopped')->and($run->failure)->toContain('Nothing was put in place');
});

it('has a run gone on with whose worker is dead, and leaves one alone whose worker lives', function (): void {
    Queue::fake();
    $set = BackupSet::query()->first();
    $make = fn (string $worker): Run => Run::query()->create([
        'workload_id' => $set->workload_id,
        'set_id' => $set->id,
        'state' => 'running',
        'worker' => $worker,
        'plan' => [],
    ]);
    $dead = $make(gethostname().':1:123');
    $alive = $make(App\Runs\WorkerProcess::own());
    (new ResumeAbandonedRuns)->handle();
    expect($dead->refresh()->state)->toBe('queued')->and($alive->refresh()->state)->toBe('running');
    Queue::assertPushed(CarryOutRun::class, 1);
});

it('gives one file out as a download that no browser shows as a page', function (): void {
    $set = BackupSet::query()->where('name', $this->full)->value('id');
    $answer = $this->actingAs($this->operator)->get("/sets/$set/file?path=".rawurlencode("tree/odd <b>name\n"));
    $answer->assertOk()->assertHeader('Content-Type', 'application/octet-stream');
    expect($answer->streamedContent())
        ->toBe('odd')
        ->and($answer->headers->get('Content-Disposition'))
        ->toStartWith('attachment')
        ->not->toContain("\n");
    $this->get("/sets/$set/file?path=tree/rosters")->assertNotFound();
    $this->get("/sets/$set/file?path=nothing")->assertNotFound();
});

it('takes a request in, and says what is missing in it', function (): void {
    $this->actingAs($this->requester)->get('/requests/new')->assertOk();
    $this->post('/requests', [])->assertSessionHasErrors(['summary', 'reason', 'wanted_at', 'due_at']);
    $this->post('/requests', [
        'summary' => 'Gone',
        'reason' => 'Needed',
        'wanted_at' => '2026-11-01T10:00',
        'due_at' => '2026-11-02T10:00',
        'requester' => $this->operator->id,
    ])->assertRedirect();
    $new = RecoveryRequest::query()->latest('id')->first();
    expect($new->requester_id)
        ->toBe($this->requester->id)
        ->and($new->wanted_at->toIso8601String())
        ->toBe('2026-11-01T09:00:00+00:00')
        ->and($new->workload_id)
        ->toBeNull();
    $this->actingAs($this->operator)
        ->get("/requests/{$new->id}")
        ->assertSee('not settled');
    $this->post("/requests/{$new->id}/workload", ['workload' => Workload::query()->value('id')])->assertRedirect();
    expect($new->refresh()->workload_id)->not->toBeNull();
});

it('finds names in all workloads, and requests', function (): void {
    $this->actingAs($this->operator)->get('/search?q=WEEK-47')->assertSee('/tree/rosters/week-47.csv')->assertSee('still there');
    $this->get('/search?q=roster')->assertSee('The roster is empty');
    $this->get('/search?q=nothing-like-it')->assertSee('Nothing like that was ever in a set');
    $this->actingAs($this->requester)->get('/search?q=week')->assertDontSee('week-47');
});

it('shows what there is and what is wrong with it', function (): void {
    $this->actingAs($this->operator)->get('/estate')->assertOk()->assertSee('crew')->assertSee('never');
    $this->get('/stores')->assertOk()->assertSee('read-only for us')->assertSee('None that is known');
    unlink($this->archives->file($this->full));
    $this->look();
    $this->get('/stores')->assertSee('There is no file');
    $this->get('/estate')->assertSee('None of its 2 points is usable');
    $this->get('/proofs')->assertSee('Nothing was run yet');
    $this->get('/health')->assertOk()->assertSee('ok')->assertHeader('Content-Security-Policy');
});

it('says on the desk what to do when nothing is there', function (): void {
    RecoveryRequest::query()->delete();
    $this->actingAs($this->operator)->get('/')->assertSee('Nothing is asked for');
});
