<?php

declare(strict_types=1);

use App\Care\Expiry;
use App\Care\KeepRules;
use App\Instance;
use App\Jobs\CarryOutRun;
use App\Jobs\PutBackRun;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\Files\Order\FilesSaid;
use App\Kinds\Touched;
use App\Models\Approval;
use App\Models\Consent;
use App\Models\Copy;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Tests\Support\Desk;

// One person alone does nothing to what is marked, whichever way they take.

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'the good one'), fn ($a) => $a->put('roster', ''));
    $this->scratch()->file('hosts/crew/files/tree/roster', 'spoiled');
    $this->workload = Workload::query()->sole();
    $this->workload->update(['needs_approval' => true]);
    $this->approver = $this->desk->person(Role::Approver);
    $this->care = "/workloads/{$this->workload->id}";
    $this->order = function (array $more = []) {
        $this->actingAs($this->desk->operator);

        return $this->post("{$this->desk->url}/run", ['order' => $this->desk->order()] + $more);
    };
});

it('is asked where the place belongs to a marked workload, whatever the source is', function (): void {
    $this->workload->update(['needs_approval' => false]);
    $payroll = $this->scratch()->folder('hosts/payroll/files');
    $this->scratch()->file('hosts/payroll/files/tree/roster', 'another one');
    Workload::query()->create([
        'name' => 'payroll',
        'kind' => 'files',
        'group' => 'office',
        'source' => $payroll,
        'needs_approval' => true,
    ]);
    $host = App\Models\Host::query()->create(['name' => 'payroll', 'kind' => 'folder', 'folder' => $payroll, 'site' => 'boathouse']);
    $this->desk->into('host', ['tree/roster'], 'replace', '');
    $this->desk->say(fn (FilesSaid $said): FilesSaid => $said->with(host: $host->id));
    ($this->order)();
    expect(Run::query()->count())
        ->toBe(0)
        ->and(Approval::query()->sole()->state)
        ->toBe('asked');
    $answer = $this->kaiseki(
        'restore',
        'crew',
        '--point='.$this->desk->sets[0],
        '--path=/tree/roster',
        "--to=$payroll",
        '--conflict=replace',
    );
    expect($answer->code)
        ->toBe(3)
        ->and($answer->text)
        ->toContain('payroll')
        ->and(file_get_contents("$payroll/tree/roster"))
        ->toBe('another one');
});

it('is asked for a server on which a marked database lives', function (): void {
    $server = DatabaseServer::query()->create(['name' => 'till', 'host' => '127.0.0.1', 'port' => 3306, 'user' => 'x', 'password' => 'x']);
    $server->holds(Workload::query()->create(['name' => 'till', 'kind' => 'database', 'group' => 'office', 'needs_approval' => true]));
    $marked = (new Touched([TouchedServer::place($server, true)]))->marked();
    expect(array_map(fn (Workload $one): string => $one->name, $marked))->toBe(['till']);
});

it('lets an override wait, raises the alarm at once, and can be stopped meanwhile', function (): void {
    $this->desk->into('own-place', ['tree/roster']);
    ($this->order)(['reason' => 'The ferry leaves in ten minutes']);
    $run = Run::query()->sole();
    expect($run->starts_at?->isFuture())
        ->toBeTrue()
        ->and($run->state)
        ->toBe('queued')
        ->and((string) file_get_contents(Instance::folder('log').'/alarms.log'))
        ->toContain("Run {$run->id} of request");
    Queue::assertPushed(CarryOutRun::class, fn (CarryOutRun $job): bool => $job->delay !== null && now()->diffInSeconds($job->delay) > 590);
    $this->actingAs($this->approver)
        ->get('/approvals/'.Approval::query()->value('id'))
        ->assertSee('Stop it');
    $this->post("/runs/{$run->id}/stop")->assertRedirect();
    expect($run->refresh()->state)->toBe('stopped');
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('stopped')->and(file_get_contents("{$this->desk->live}/tree/roster"))->toBe('spoiled');
});

it('has the wait settled by an approver, in minutes', function (): void {
    $this->actingAs($this->desk->operator)
        ->post("{$this->care}/approval", ['minutes' => '0'])
        ->assertForbidden();
    $this->actingAs($this->approver)
        ->post("{$this->care}/approval", ['minutes' => '45'])
        ->assertRedirect();
    expect($this->workload->refresh()->override_wait_min)->toBe(45);
    $this->post("{$this->care}/approval", ['minutes' => '999999'])->assertStatus(422);
});

it('needs a reason that says something', function (string $reason): void {
    $this->desk->into('own-place', ['tree/roster']);
    ($this->order)(['reason' => $reason]);
    expect(Run::query()->count())->toBe(0);
})->with(['', 'now', '          ']);

it('asks a second person before a mark is lifted', function (): void {
    $this->actingAs($this->desk->operator)->post("{$this->care}/approval", ['needs' => '0']);
    expect($this->workload->refresh()->needs_approval)->toBeTrue();
    $consent = Consent::query()->sole();
    $page = "/consents/{$consent->id}";
    $others = [
        $this->desk->operator,
        $this->desk->person(Role::Operator),
        $this->desk->person(Role::Auditor),
        $this->desk->person(Role::Approver, ['fares']),
        $this->desk->requester,
    ];
    foreach ($others as $other) {
        $this->actingAs($other)->post($page, Desk::yes($page))->assertForbidden();
    }
    $this->actingAs($this->desk->requester)->get($page)->assertForbidden();
    $this->actingAs($this->approver)->get('/')->assertSee($consent->words);
    $this->get($page)->assertSee('Yes, do it');
    $this->post($page, ['do' => 'refuse'])->assertSessionHasErrors('words');
    $this->post($page, Desk::yes($page))->assertSessionHasNoErrors();
    expect($this->workload->refresh()->needs_approval)
        ->toBeFalse()
        ->and(TrailEntry::query()->pluck('what')->implode("\n"))
        ->toContain("{$this->approver->name} said yes, as ");
    $this->post($page, ['do' => 'refuse', 'words' => 'late'])->assertSessionHasErrors('do');
    // An approver does not lift it alone either.
    $this->workload->update(['needs_approval' => true]);
    $this->post("{$this->care}/approval", ['needs' => '0']);
    $second = Consent::query()->latest('id')->firstOrFail();
    $this->post("/consents/{$second->id}", Desk::yes("/consents/{$second->id}"))->assertForbidden();
    $this->actingAs($this->desk->operator)
        ->post("/consents/{$second->id}", Desk::yes("/consents/{$second->id}"))
        ->assertSessionHasNoErrors();
    expect($this->workload->refresh()->needs_approval)->toBeFalse();
});

it('asks a second person before less is kept, and nobody where everything is', function (): void {
    $this->actingAs($this->desk->operator)->post("{$this->care}/rules", ['rule' => 'last=1', 'every_night' => '1']);
    expect(KeepRules::of($this->workload)->all())
        ->toBe([])
        ->and(Consent::query()->sole()->words)
        ->toContain('last=1')
        ->toContain('by itself');
    $this->post("{$this->care}/rules", ['rule' => 'last=one'])->assertSessionHasErrors('rule');
    $this->actingAs($this->approver)
        ->post('/consents/'.Consent::query()->value('id'), Desk::yes('/consents/'.Consent::query()->value('id')))
        ->assertSessionHasNoErrors();
    expect(KeepRules::of($this->workload)->pluck('rule')->all())->toBe(['last=1']);
    $this->actingAs($this->desk->operator)->post("{$this->care}/rules", ['rule' => '']);
    expect(KeepRules::of($this->workload)->all())->toBe([]);
    expect($this->kaiseki('keep', 'crew', 'last=1')->code)
        ->toBe(3)
        ->and(KeepRules::of($this->workload)->all())
        ->toBe([]);
});

it('asks a second person before sets are deleted, and deletes only what was shown', function (): void {
    Store::query()->update(['read_only' => false]);
    KeepRules::settle($this->workload, null, 'last=1', false, false);
    $this->desk->archives->put('roster', 'full again');
    $this->desk->archives->dump('full');
    $this->kaiseki('adopt', $this->desk->archives->folder, '--as=crew');
    $plan = (new Expiry($this->workload->refresh()))->fingerprint();
    $copies = Copy::query()->count();
    expect((new Expiry($this->workload))->lines())->not->toBe([]);
    $this->actingAs($this->desk->operator)->post("{$this->care}/expire", ['plan' => $plan]);
    expect(Copy::query()->count())
        ->toBe($copies)
        ->and($this->kaiseki('expire', 'crew', '--yes')->code)
        ->toBe(3)
        ->and(Copy::query()->count())
        ->toBe($copies);
    $first = Consent::query()->sole();
    $this->kaiseki('hold', 'crew', $this->desk->sets[1], '--reason=The insurers ask for it.');
    $this->actingAs($this->approver)
        ->post("/consents/{$first->id}", Desk::yes("/consents/{$first->id}"))
        ->assertSessionHasErrors('do');
    expect($first->refresh()->state)
        ->toBe('failed')
        ->and(Copy::query()->count())
        ->toBe($copies);
    $this->kaiseki('hold', 'crew', $this->desk->sets[1], '--lift');
    App\Models\Hold::query()->delete();
    $this->actingAs($this->desk->operator)
        ->post("{$this->care}/expire", ['plan' => $plan])
        ->assertSessionHasNoErrors();
    $this->actingAs($this->approver)
        ->post(
            '/consents/'.Consent::query()->latest('id')->value('id'),
            Desk::yes('/consents/'.Consent::query()->latest('id')->value('id')),
        )
        ->assertSessionHasNoErrors();
    expect(Copy::query()->count())->toBeLessThan($copies);
});

it('asks a second person before what somebody changed since is put back too', function (): void {
    $this->workload->update(['needs_approval' => false]);
    $this->desk->into('own-place', ['tree/roster']);
    ($this->order)();
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)->toBe('done', (string) $run->failure);
    $this->workload->update(['needs_approval' => true]);
    $this->post("/runs/{$run->id}/put-back", ['also_changed' => '1'])->assertRedirect();
    Queue::assertNotPushed(PutBackRun::class);
    expect($this->kaiseki('put-back', (string) $run->id, '--also-changed')->code)->toBe(3);
    $this->actingAs($this->approver)
        ->post('/consents/'.Consent::query()->sole()->id, Desk::yes('/consents/'.Consent::query()->sole()->id))
        ->assertSessionHasNoErrors();
    Queue::assertPushed(PutBackRun::class, fn (PutBackRun $job): bool => $job->alsoChanged);
});

it('asks a second person before a run is undone, gone on with, or its set let go', function (): void {
    $this->workload->update(['needs_approval' => false]);
    $this->desk->into('own-place', ['tree/roster']);
    ($this->order)();
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    $set = App\Models\BackupSet::query()->findOrFail($run->refresh()->set_id);
    $hold = App\Models\Hold::query()->create(['set_id' => $set->id, 'reason' => 'The insurers ask for it.']);
    $this->workload->update(['needs_approval' => true]);

    // Each by its page and at the terminal: nothing is done, and a second person finds it on their desk.
    $this->post("/runs/{$run->id}/put-back")->assertRedirect();
    $this->post("/sets/{$set->id}/holds/{$hold->id}/lift")->assertRedirect();
    $failed = Run::query()->create(['state' => 'stopped'] + $run->only('workload_id', 'set_id', 'set_name', 'point_at', 'plan', 'user_id'));
    $this->post("/runs/{$failed->id}/resume")->assertRedirect();
    Queue::assertNotPushed(PutBackRun::class);
    expect($hold->refresh()->lifted_at)->toBeNull()->and($failed->refresh()->state)->toBe('stopped');
    foreach (
        [
            ['put-back', (string) $run->id],
            ['resume', (string) $failed->id],
            ['hold', 'crew', $set->name, '--lift'],
            ['set-aside', (string) $run->id, '--remove'],
        ] as $command
    ) {
        $answer = $this->kaiseki(...$command);
        expect($answer->code)->toBe(3, $command[0])->and($answer->text)->toContain('second person');
    }
    expect(Consent::query()->pluck('deed')->all())->toBe(['put-back', 'lift-hold', 'go-on']);
    foreach (Consent::query()->get() as $consent) {
        $this->actingAs($this->approver)
            ->post("/consents/{$consent->id}", Desk::yes("/consents/{$consent->id}"))
            ->assertSessionHasNoErrors();
    }
    Queue::assertPushed(PutBackRun::class, fn (PutBackRun $job): bool => ! $job->alsoChanged);
    expect($hold->refresh()->lifted_at)->not->toBeNull()->and($failed->refresh()->state)->toBe('queued');
});

it('goes on with what was agreed to without asking again', function (): void {
    $this->desk->into('own-place', ['tree/roster']);
    ($this->order)();
    $page = '/approvals/'.Approval::query()->value('id');
    $this->actingAs($this->approver)->post($page, Desk::yes($page))->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    $run->update(['state' => 'stopped']);
    $run->request->update(['state' => 'open']);
    $this->actingAs($this->desk->operator)
        ->post("/runs/{$run->id}/resume")
        ->assertSessionHasNoErrors();
    expect($run->refresh()->state)
        ->toBe('queued')
        ->and(Consent::query()->count())
        ->toBe(0);
});

it('takes no yes from the browser it was asked from, nor to anything that was not shown', function (): void {
    $mark = str_repeat('m', 40);
    $this->desk->into('own-place', ['tree/roster']);
    $this->withCookie(App\People\BrowserMark::COOKIE, $mark);
    ($this->order)();
    $this->post("{$this->care}/approval", ['needs' => '0']);
    $pages = ['/approvals/'.Approval::query()->value('id'), '/consents/'.Consent::query()->value('id')];
    foreach ($pages as $page) {
        $this->actingAs($this->approver)->withCookie(App\People\BrowserMark::COOKIE, $mark);
        $this->post($page, Desk::yes($page))->assertSessionHasErrors('do');
        expect(session('errors')->first('do'))->toContain('this very browser');
        // A no is taken from anywhere; a yes must name what was shown.
        $this->withCookie(App\People\BrowserMark::COOKIE, str_repeat('n', 40));
        $this->post($page, ['do' => 'approve'])->assertSessionHasErrors('seen');
        $this->post($page, ['do' => 'approve', 'seen' => str_repeat('0', 64)])->assertSessionHasErrors('do');
        expect(Run::query()->count())
            ->toBe(0)
            ->and($this->workload->refresh()->needs_approval)
            ->toBeTrue();
    }
    $this->post($pages[1], Desk::yes($pages[1]))->assertSessionHasNoErrors();
    $yes = (string) TrailEntry::query()->where('what', 'like', '%said yes%')->value('what');
    expect($yes)->toContain(substr(Consent::query()->sole()->fingerprint(), 0, 16));
});

it('marks a browser once, when somebody signs in with it', function (): void {
    $sign = fn () => $this->post('/sign-in', ['email' => $this->approver->email, 'password' => 'tide-table-9']);
    $cookie = $sign()->getCookie(App\People\BrowserMark::COOKIE);
    expect($cookie?->isHttpOnly())->toBeTrue()->and($cookie?->getSameSite())->toBe('strict');
    $this->post('/sign-out');
    Illuminate\Support\Facades\Cookie::flushQueuedCookies(); // of the request before, in this one process
    $this->withCookie(App\People\BrowserMark::COOKIE, (string) $cookie?->getValue());
    expect($sign()->getCookie(App\People\BrowserMark::COOKIE))->toBeNull();
});
