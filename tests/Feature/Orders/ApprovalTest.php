<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Jobs\PutBackRun;
use App\Models\Approval;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use Illuminate\Support\Facades\Queue;
use Tests\Support\Desk;
use Tests\Support\TreeListing;

beforeEach(function (): void {
    Queue::fake();
    $this->desk = new Desk(
        $this,
        fn ($a) => $a->put('rosters/week-47.csv', 'the good one')->put('rosters/other.csv', 'other'),
        fn ($a) => $a->put('rosters/week-47.csv', ''),
    );
    $this->scratch()->file('hosts/crew/files/tree/rosters/week-47.csv', 'spoiled');
    Workload::query()->update(['needs_approval' => true]);
    $this->approver = $this->desk->person(Role::Approver);
    $this->desk->into('own-place', ['tree/rosters/week-47.csv']);
    $this->ask = fn () => $this->actingAs($this->desk->operator)->post("{$this->desk->url}/run", ['order' => $this->desk->order()]);
});

it('waits for a second person where something is replaced, and for nobody where nothing is', function (): void {
    ($this->ask)()->assertRedirect("{$this->desk->url}?show=run");
    expect(Run::query()->count())
        ->toBe(0)
        ->and(Approval::query()->sole()->state)
        ->toBe('asked');
    $this->get("{$this->desk->url}?show=run")->assertSee('nobody has answered yet');
    // The same thing into a new folder needs none.
    $this->desk->into('new-folder', ['tree/rosters/week-47.csv']);
    $this->post("{$this->desk->url}/run", ['order' => $this->desk->order()])->assertRedirect("{$this->desk->url}?show=proof");
    expect(Run::query()->count())->toBe(1);
});

it('lets an approver begin it, who sees the order and what it does', function (): void {
    ($this->ask)();
    $approval = Approval::query()->sole();
    $page = "/approvals/{$approval->id}";
    $this->actingAs($this->approver)->get('/')->assertSee('Waits for you')->assertSee("asks for approval: {$approval->sentence}");
    $this->get($page)
        ->assertSee('as it was on Thu 1 Oct 04:00 +02:00 into')
        ->assertSee('tree/rosters/week-47.csv')
        ->assertSee('the present one set aside')
        ->assertSee('Approve, and run it');
    $this->post($page, Desk::yes($page))->assertRedirect($page);
    $run = Run::query()->sole();
    expect($approval->refresh()->state)
        ->toBe('approved')
        ->and($approval->run_id)
        ->toBe($run->id)
        ->and($run->user_id)
        ->toBe($this->desk->operator->id);
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))
        ->toBe('the good one');
    $proof = json_decode((string) file_get_contents(App\Runs\RunFiles::proof($run)), true);
    expect($proof['evidence']['approval'])->toMatchArray(['state' => 'approved', 'by' => $this->approver->name]);
    $this->post($page, ['do' => 'refuse', 'words' => 'late'])->assertSessionHasErrors('do');
});

it('does not let the one who asked decide, nor anybody else who may not', function (): void {
    ($this->ask)();
    $page = '/approvals/'.Approval::query()->sole()->id;
    $this->post($page, Desk::yes($page))->assertForbidden();
    $this->get($page)->assertSee('somebody else must decide');
    foreach ([$this->desk->requester, $this->desk->person(Role::Auditor), $this->desk->person(Role::Approver, ['fares'])] as $other) {
        $this->actingAs($other)
            ->post($page, Desk::yes($page))
            ->assertForbidden();
    }
    $this->actingAs($this->desk->requester)->get($page)->assertForbidden();
    expect(Run::query()->count())->toBe(0);
    $this->actingAs($this->desk->person(Role::Operator))
        ->post($page, Desk::yes($page))
        ->assertRedirect($page);
    expect(Run::query()->count())->toBe(1);
});

it('refuses with words, and can be withdrawn', function (): void {
    ($this->ask)();
    $page = '/approvals/'.Approval::query()->sole()->id;
    $this->actingAs($this->approver)
        ->post($page, ['do' => 'refuse'])
        ->assertSessionHasErrors('words');
    $this->post($page, ['do' => 'refuse', 'words' => 'Ask the purser first']);
    expect(Approval::query()->sole()->state)
        ->toBe('refused')
        ->and(TrailEntry::query()->pluck('what')->implode("\n"))
        ->toContain('Ask the purser first');
    ($this->ask)();
    $second = Approval::query()->latest('id')->firstOrFail();
    $this->actingAs($this->desk->operator)
        ->post("/approvals/{$second->id}", ['do' => 'withdraw'])
        ->assertRedirect("{$this->desk->url}?show=run");
    expect($second->refresh()->state)
        ->toBe('withdrawn')
        ->and(Run::query()->count())
        ->toBe(0);
});

it('approves only what was shown: not another order, nor the same over something else', function (string $change): void {
    ($this->ask)();
    $approval = Approval::query()->sole();
    match ($change) {
        'another selection' => $this->desk->into('own-place', ['tree/rosters/other.csv', 'tree/rosters/week-47.csv']),
        'another rule' => $this->desk->into('own-place', ['tree/rosters/week-47.csv'], 'replace-all'),
        default => $this->scratch()->file('hosts/crew/files/tree/rosters/week-47.csv', 'spoiled further'),
    };
    $this->actingAs($this->approver)
        ->get("/approvals/{$approval->id}")
        ->assertSee('is another by now');
    $this->post("/approvals/{$approval->id}", Desk::yes("/approvals/{$approval->id}"))->assertSessionHasErrors('do');
    expect(Run::query()->count())->toBe(0);
})->with(['another selection', 'another rule', 'another content there']);

it('begins without approval for a reason, raises an alarm, and is listed until somebody else reviewed it', function (): void {
    $this->actingAs($this->desk->operator)
        ->post("{$this->desk->url}/run", ['order' => $this->desk->order(), 'reason' => 'short'])
        ->assertSessionHasErrors('reason');
    $this->post("{$this->desk->url}/run", ['order' => $this->desk->order(), 'reason' => 'The ferry leaves in ten minutes'])->assertRedirect(
        "{$this->desk->url}?show=proof",
    );
    $approval = Approval::query()->sole();
    expect($approval->isToBeReviewed())
        ->toBeTrue()
        ->and((string) file_get_contents(App\Instance::folder('log').'/alarms.log'))
        ->toContain('The ferry leaves in ten minutes');
    $this->actingAs($this->approver)->get('/')->assertSee('Begun without approval: ')->assertSee('Review it');
    $this->actingAs($this->desk->operator)
        ->post("/approvals/{$approval->id}", ['do' => 'review', 'words' => 'fine by me'])
        ->assertForbidden();
    $this->actingAs($this->approver)
        ->post("/approvals/{$approval->id}", ['do' => 'review', 'words' => 'It was right to do so'])
        ->assertRedirect();
    $this->get('/')->assertDontSee('begun without approval: review');
    expect($approval->refresh()->reviewed_by)->toBe($this->approver->id);
});

it('stops when what stands there changed after it was ordered, and nothing is in place then', function (): void {
    Workload::query()->update(['needs_approval' => false]);
    ($this->ask)()->assertRedirect("{$this->desk->url}?show=proof");
    $this->scratch()->file('hosts/crew/files/tree/rosters/week-47.csv', 'somebody wrote meanwhile');
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)
        ->toBe('failed')
        ->and((string) $run->failure)
        ->toContain('changed since it was shown')
        ->toContain('Nothing was put in place');
    expect(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))
        ->toBe('somebody wrote meanwhile')
        ->and(glob("{$this->desk->live}/.kaiseki*"))
        ->toBe([]);
});

it('begins at the time that was set', function (): void {
    Workload::query()->update(['needs_approval' => false]);
    $this->actingAs($this->desk->operator)
        ->post("{$this->desk->url}/start", ['starts_at' => '2020-01-01 10:00'])
        ->assertSessionHasErrors('starts_at');
    $this->post("{$this->desk->url}/start", [
        'starts_at' => now('Europe/Oslo')->addHours(3)->format('Y-m-d H:i'),
    ])->assertSessionHasNoErrors();
    $this->get("{$this->desk->url}?show=run")->assertSee('Yes, run it then');
    ($this->ask)();
    expect(Run::query()->sole()->starts_at?->isFuture())->toBeTrue();
    Queue::assertPushed(CarryOutRun::class, fn (CarryOutRun $job): bool => $job->delay !== null && now()->diffInMinutes($job->delay) > 170);
});

it('puts back from the page, exactly, and lists what is set aside until then', function (): void {
    Workload::query()->update(['needs_approval' => false]);
    touch("{$this->desk->live}/tree/rosters", 1_700_000_000);
    $before = TreeListing::of($this->desk->live);
    ($this->ask)();
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    $run->refresh();
    expect($run->state)->toBe('done', (string) $run->failure)->and($run->set_aside_until?->isFuture())->toBeTrue();
    $this->get('/')->assertDontSee('cannot be put back');
    $this->travel(12)->days();
    $this->get('/')->assertSee("What run {$run->id} replaced goes: after that it cannot be put back.")->assertSee('Keep it longer');
    $this->travelBack();
    $this->get("{$this->desk->url}?show=proof")->assertSee('Put it back');
    $this->actingAs($this->approver)
        ->post("/runs/{$run->id}/put-back")
        ->assertForbidden();
    $this->actingAs($this->desk->operator)
        ->post("/runs/{$run->id}/set-aside")
        ->assertRedirect();
    expect($run->set_aside_until->diffInDays($run->refresh()->set_aside_until))->toBe(14.0);
    $this->post("/runs/{$run->id}/put-back")->assertRedirect();
    Queue::assertPushed(PutBackRun::class);
    (new PutBackRun($run->id, false))->handle();
    expect(TreeListing::of($this->desk->live))->toBe($before);
    $this->get("{$this->desk->url}?show=proof")->assertSee('It was put back');
    $this->travel(12)->days();
    $this->get('/')->assertDontSee('cannot be put back');
    $this->travelBack();
    $this->post("/runs/{$run->id}/put-back")->assertSessionHasErrors('run');
});

it('keeps somebody\'s later change when told to put back over it, and drops the set-aside when its time is over', function (): void {
    Workload::query()->update(['needs_approval' => false]);
    ($this->ask)();
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    $this->scratch()->file('hosts/crew/files/tree/rosters/week-47.csv', 'worked on since');
    (new PutBackRun($run->id, true))->handle();
    expect(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))->toBe('spoiled');
    expect(file_get_contents("{$this->desk->live}/tree/rosters/week-47 (changed since run {$run->id}).csv"))->toBe('worked on since');
    $this->desk->request->refresh()->update(['state' => 'open']);
    ($this->ask)();
    $second = Run::query()->latest('id')->firstOrFail();
    (new CarryOutRun($second->id))->handle();
    expect(is_dir("{$this->desk->live}/.kaiseki-set-aside-{$second->id}"))->toBeTrue();
    App\Runs\SetAsides::clearOld();
    expect(is_dir("{$this->desk->live}/.kaiseki-set-aside-{$second->id}"))->toBeTrue();
    $this->travel(15)->days();
    App\Runs\SetAsides::clearOld();
    clearstatcache(true);
    expect(is_dir("{$this->desk->live}/.kaiseki-set-aside-{$second->id}"))
        ->toBeFalse()
        ->and($second->refresh()->canBePutBack())
        ->toBeFalse();
});

it('goes on with a run that was stopped, from its page', function (): void {
    Workload::query()->update(['needs_approval' => false]);
    ($this->ask)();
    $run = Run::query()->sole();
    $run->update(['stop_asked' => true]);
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)
        ->toBe('stopped')
        ->and(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))
        ->toBe('spoiled');
    $this->get("{$this->desk->url}?show=proof")->assertSee('Go on with it');
    $this->actingAs($this->approver)
        ->post("/runs/{$run->id}/resume")
        ->assertForbidden();
    $this->actingAs($this->desk->operator)
        ->post("/runs/{$run->id}/resume")
        ->assertSessionHasNoErrors();
    expect($run->refresh()->state)->toBe('queued')->and($run->stop_asked)->toBeFalse();
    (new CarryOutRun($run->id))->handle();
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))
        ->toBe('the good one');
    $this->post("/runs/{$run->id}/resume")->assertSessionHasErrors('run');
});

it('does not let a terminal go round the second person', function (): void {
    $restore = fn (string ...$more) => $this->kaiseki(
        'restore',
        'crew',
        '--point='.$this->desk->sets[0],
        '--path=/tree/rosters',
        ...$more,
    );
    foreach (
        [
            ['--in-place', '--conflict=replace'],
            ['--in-place', '--conflict=rename-present'],
            ["--to={$this->desk->live}", '--conflict=replace-all'],
        ] as $options
    ) {
        expect($restore(...$options))->code->toBe(3)->text->toContain('waits for a second person');
    }
    expect(file_get_contents("{$this->desk->live}/tree/rosters/week-47.csv"))->toBe('spoiled');
    expect($restore('--in-place', '--conflict=missing-only')->code)
        ->toBe(0)
        ->and($restore("--to={$this->scratch()->path}/elsewhere", '--conflict=replace')->code)
        ->toBe(0);
});
