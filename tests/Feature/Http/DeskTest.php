<?php

declare(strict_types=1);

use App\Models\Approval;
use App\Models\CartridgeCall;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\View\WaitingThing;
use App\View\WaitingThings;
use Illuminate\Support\Facades\DB;
use Tests\Support\Desk;

// What waits for somebody stands on their desk, the most urgent first, with its one next step; two thousand requests are one quick page.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->workload = Workload::query()->sole();
    $this->kaiseki('store-add', 'vault', $this->scratch()->path.'/tapes', '--kind=tape', '--cartridges=HV1', '--slots=1');
    $this->approver = $this->person(Role::Approver);
    $this->run = fn (string $state, array $more = []): Run => Run::query()->create(
        $more + [
            'workload_id' => $this->workload->id,
            'request_id' => RecoveryRequest::query()->create([
                'workload_id' => $this->workload->id,
                'requester_id' => $this->desk->requester->id,
                'summary' => "It $state",
                'reason' => 'x',
                'wanted_at' => now(),
                'due_at' => now()->addDay(),
            ])->id,
            'set_id' => $this->desk->set(0)->id,
            'state' => $state,
            'plan' => ['sentence' => 'Put it back.', 'target' => ''],
        ],
    );
    $this->ids = fn (User $user): array => array_map(fn (WaitingThing $thing): string => $thing->id, WaitingThings::of($user));
});

function requestsInBulk(int $count, int $requester, ?int $workload): void
{
    foreach (array_chunk(range(1, $count), 500) as $chunk) {
        DB::table('requests')->insert(
            array_map(
                fn (int $i): array => [
                    'workload_id' => $workload,
                    'requester_id' => $requester,
                    'summary' => "Bulk $i is 100% gone_",
                    'reason' => 'x',
                    'state' => 'open',
                    'wanted_at' => now(),
                    'due_at' => now()->addDays(2)->addMinutes($i),
                    'created_at' => now(),
                    'updated_at' => now(),
                    'demands' => '',
                ],
                $chunk,
            ),
        );
    }
}

it('gathers what waits for an operator from all rooms, the most urgent first, each step there to be taken', function (): void {
    $other = $this->person(Role::Operator);
    $ask = [
        'request_id' => $this->desk->request->id,
        'workload_id' => $this->workload->id,
        'order' => 'x',
        'sentence' => 'Put it back.',
        'set_first' => false,
        'preview' => [],
        'asked_by' => $other->id,
        'asked_at' => now()->subHour(),
    ];
    $asked = Approval::query()->create(['state' => 'asked'] + $ask);
    $begun = Approval::query()->create(['state' => 'overridden', 'words' => 'The ferry leaves'] + $ask);
    $mine = Approval::query()->create(['state' => 'asked', 'asked_by' => $this->desk->operator->id] + $ask);
    Approval::query()->create(['state' => 'refused'] + $ask);
    $failed = ($this->run)('failed', ['failure' => 'The disk was full.', 'ended_at' => now()->subMinute()]);
    $stopped = ($this->run)('stopped', ['ended_at' => now()]);
    $waiting = ($this->run)('waiting', ['waits_for' => ['vault/HV1']]);
    ($this->run)('running');
    $aside = ($this->run)('done', ['ended_at' => now(), 'set_aside_until' => now()->addDays(2)]);
    ($this->run)('done', ['ended_at' => now(), 'set_aside_until' => now()->addDays(9)]);
    CartridgeCall::query()->create([
        'store_id' => Store::query()->where('name', 'vault')->value('id'),
        'label' => 'HV1',
        'run_id' => $waiting->id,
        'asked_at' => now(),
    ]);
    $this->workload->update(['rpo_s' => 60]);
    expect(($this->ids)($this->desk->operator))->toBe([
        "approval-{$begun->id}",
        'cartridge-HV1',
        "approval-{$asked->id}",
        "run-{$failed->id}",
        "concern-{$this->workload->id}",
        "run-{$waiting->id}",
        "run-{$stopped->id}",
        "aside-{$aside->id}",
        "approval-{$mine->id}",
    ]);
    $page = $this->actingAs($this->desk->operator)
        ->get('/')
        ->assertSee('Waits for you')
        ->assertSee("Run {$failed->id} failed: The disk was full.")
        ->assertSee('at most 1 min are promised')
        ->assertSee('and 1 more');
    expect(substr_count((string) $page->getContent(), 'data-row'))->toBeGreaterThan(8);
    $this->get('/?all=1')->assertDontSee('and 1 more')->assertSee('Somebody else decides');
    $aside->delete(); // the page of a run that is done wants what it brought
    foreach (WaitingThings::of($this->desk->operator) as $thing) {
        $this->get($thing->url)->assertOk();
    }
});

it('says of what was tried again only how that went', function (): void {
    $failed = ($this->run)('failed', ['failure' => 'No.', 'ended_at' => now()]);
    ($this->run)('done', ['request_id' => $failed->request_id, 'ended_at' => now()]);
    $closed = ($this->run)('failed', ['failure' => 'No.', 'ended_at' => now()]);
    RecoveryRequest::query()
        ->whereKey($closed->request_id)
        ->update(['state' => 'closed', 'closed_at' => now()]);
    expect(preg_grep('/^run-/', ($this->ids)($this->desk->operator)))->toBe([]);
});

it('shows each role what is theirs, and nobody what they may not see', function (): void {
    $failed = ($this->run)('failed', ['failure' => 'No.', 'ended_at' => now()]);
    $this->workload->update(['rpo_s' => 60]);
    $consent = Consent::query()->create([
        'workload_id' => $this->workload->id,
        'deed' => 'lift-mark',
        'detail' => [],
        'words' => 'Lift it.',
        'state' => 'asked',
        'asked_by' => $this->desk->operator->id,
        'asked_at' => now(),
    ]);
    $this->desk->request->update(['state' => 'answer']);
    $concern = "concern-{$this->workload->id}";
    $person = fn (Role $role, ?array $groups): User => $this->desk->person($role, $groups);
    expect(($this->ids)($this->approver))
        ->toBe(["consent-{$consent->id}"])
        ->and(($this->ids)($person(Role::Approver, ['piers'])))
        ->toBe([])
        ->and(($this->ids)($person(Role::Auditor, null)))
        ->toBe([$concern])
        ->and(($this->ids)($person(Role::Auditor, ['piers'])))
        ->toBe([])
        ->and(($this->ids)($person(Role::Operator, ['piers'])))
        ->toBe([])
        ->and(($this->ids)($person(Role::Operator, ['crew office'])))
        ->toBe(["run-{$failed->id}", $concern, "consent-{$consent->id}"])
        ->and(($this->ids)($this->desk->requester))
        ->toBe(["answer-{$this->desk->request->id}"])
        ->and(($this->ids)($this->person(Role::Requester)))
        ->toBe([]);
    $this->actingAs($this->desk->requester)->get('/')->assertSee('Say whether it is right')->assertDontSee('Running now');
});

it('turns the pages of two thousand requests, by as many questions to the database as for two', function (): void {
    $this->actingAs($this->desk->operator);
    $count = function (): int {
        DB::flushQueryLog();
        DB::enableQueryLog();
        $this->get('/')->assertOk();

        return count(DB::getQueryLog());
    };
    requestsInBulk(60, $this->desk->requester->id, $this->workload->id);
    $this->get('/');
    $few = $count();
    requestsInBulk(2000, $this->desk->requester->id, $this->workload->id);
    expect($count())->toBe($few);
    $this->get('/')->assertSee('2,061')->assertSee('Something is gone')->assertSee('page=2');
    $this->get('/?page=42')->assertSee('Bulk 2000 is')->assertDontSee('Something is gone');
    $this->get('/?page=4000')->assertOk();
});

it('filters requests by words, state, workload and how soon they are due', function (): void {
    $this->actingAs($this->desk->operator);
    requestsInBulk(3, $this->desk->requester->id, $this->workload->id);
    $other = Workload::query()->create(['name' => 'kiosk', 'kind' => 'files', 'group' => 'piers']);
    requestsInBulk(1, $this->person(Role::Requester)->id, $other->id);
    RecoveryRequest::query()
        ->where('summary', 'like', 'Bulk 3%')
        ->update(['state' => 'closed', 'closed_at' => now()]);
    $total = fn (string $query): int => preg_match(
        '/<span class="muted ms-3">([\d,]+)</',
        (string) $this->get("/?$query")->getContent(),
        $m,
    ) === 1
        ? (int) $m[1]
        : -1;
    expect($total(''))
        ->toBe(4)
        ->and($total('q=bulk'))
        ->toBe(3)
        ->and($total('q=100%25'))
        ->toBe(3)
        ->and($total('q=gone_'))
        ->toBe(3)
        ->and($total('q=%25bulk'))
        ->toBe(0)
        ->and($total('q='.urlencode($this->desk->requester->name)))
        ->toBe(3)
        ->and($total("q={$this->desk->request->id}"))
        ->toBeGreaterThan(0)
        ->and($total('state=closed'))
        ->toBe(1)
        ->and($total('state=nonsense'))
        ->toBe(4)
        ->and($total("workload={$other->id}"))
        ->toBe(1)
        ->and($total('soon=1'))
        ->toBe(1)
        ->and($total('soon=1&state=closed'))
        ->toBe(0);
    $this->get('/?q=nothing+like+it')->assertSee('No request fits that.');
    $limited = $this->desk->person(Role::Operator, ['crew office']);
    $this->actingAs($limited)
        ->get("/?workload={$other->id}")
        ->assertSee('No request fits that.')
        ->assertDontSee('kiosk');
});

it('keeps filters under names, for each person their own', function (): void {
    $keep = fn (string $query, string $name, string $do = 'keep') => $this->post("/filters?$query", ['name' => $name, 'do' => $do]);
    $this->actingAs($this->desk->operator);
    $keep('q=roster&soon=1', 'rosters')->assertRedirect('/?q=roster&soon=1');
    $keep('q=rota', 'rosters');
    $keep('', 'everything')->assertSessionHasErrors('name');
    $keep('q=x', '')->assertSessionHasErrors('name');
    $keep('q=x', str_repeat('x', 61))->assertSessionHasErrors('name');
    expect(DB::table('saved_filters')->pluck('query', 'name')->all())->toBe(['rosters' => 'q=rota']);
    $this->get('/')->assertSee('rosters')->assertSee('href="/?q=rota"', false);
    $this->get('/?q=rota')->assertSee('aria-current="true"', false);
    $this->actingAs($this->approver)->get('/')->assertDontSee('rosters');
    $keep('', 'rosters', 'forget');
    expect(DB::table('saved_filters')->count())->toBe(1);
    $this->actingAs($this->desk->operator);
    foreach (range(2, 20) as $i) {
        $keep("q=$i", "filter $i")->assertSessionHasNoErrors();
    }
    $keep('q=21', 'filter 21')->assertSessionHasErrors('name');
    $keep('', 'rosters', 'forget');
    expect(DB::table('saved_filters')->count())->toBe(19);
    $keep('q=<script>', '<b>bold</b>');
    $this->get('/')->assertDontSee('<b>bold</b>', false);
});
