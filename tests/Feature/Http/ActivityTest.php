<?php

declare(strict_types=1);

use App\Activity\Activities;
use App\Activity\ActivitySort;
use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Copy;
use App\Models\Making;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Tests\Support\Desk;

// What was done to the estate in a week: made, restored, read back, mended, expired, each with its log.

beforeEach(function (): void {
    $this->travelTo('2026-10-08 12:00:00'); // a Thursday
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->workload = Workload::query()->sole();
    $this->store = $this->scratch()->folder('ours');
    chmod($this->store, 0700);
    $this->kaiseki('store-add', 'ours', $this->store);
    file_put_contents("{$this->desk->live}/notes", 'x');
    $this->actingAs($this->desk->operator);
});

it('shows what was made at the command line and by a schedule, and what could not be made', function (): void {
    expect($this->kaiseki('protect', 'crew', '--level=full', '--store=ours')->code)->toBe(0);
    $set = BackupSet::query()->latest('id')->firstOrFail();
    $this->get('/activity')->assertOk()->assertSee('sets made')->assertSee($set->name)->assertSee('right');
    $making = Making::query()->sole();
    $this->get("/activity/made/{$making->id}")->assertSee('A full to ours')->assertSee('command line')->assertSee("/sets/{$set->id}");
    expect($this->kaiseki('protect', 'crew', '--level=nonsense', '--store=ours')->code)->toBe(2);
    expect(Making::query()->count())->toBe(1); // nobody began to make that
    chmod($this->store, 0777);
    rename($this->desk->live, "{$this->desk->live}.gone");
    expect($this->kaiseki('protect', 'crew', '--level=incr', '--store=ours')->code)->not->toBe(0);
    $failed = Making::query()->where('state', 'failed')->sole();
    $this->get('/activity?result=failed')->assertSee('failed')->assertDontSee($set->name);
    $this->get("/activity/made/{$failed->id}")->assertSeeInOrder(['warning', $failed->failure, 'A incr to ours']);
});

it('shows what was restored, with the steps of the run', function (): void {
    $out = $this->scratch()->path.'/out';
    $done = $this->kaiseki('restore', 'crew', '--at=2026-10-05T00:00:00Z', '--path=tree/roster', "--to=$out");
    expect($done->code)->toBe(0, $done->text);
    $this->get('/activity?what=restored')->assertSee('1 file')->assertSee('right')->assertDontSee('sets made</a>', false);
    $id = Run::query()->value('id');
    $this->get("/activity/restored/$id")->assertOk()->assertSee('See all of it')->assertSee("/runs/$id", false);
});

it('shows what was read back by plan as one thing for a night, its damage first', function (): void {
    $copies = Copy::query()->get();
    foreach ($copies as $i => $copy) {
        Check::query()->create([
            'copy_id' => $copy->id, 'workload_id' => $copy->workload_id, 'set_name' => $copy->set->name, 'store_name' => 'near',
            'result' => $i === 1 ? 'damaged' : 'right', 'because' => $i === 1 ? 'It was cut short.' : null, 'bytes' => 100,
            'seconds' => 2, 'planned' => true, 'at' => now()->subHours(9)->addMinutes($i),
        ]);
    }
    $page = $this->get('/activity')->assertSee('by plan')->assertSee('2 copies')->assertSee('failed')->assertSee('1 not well');
    expect(substr_count($page->getContent(), 'by plan'))->toBe(1);
    $this->get('/activity/checked/'.Check::query()->min('id'))
        ->assertSeeInOrder(['warning', 'damaged. It was cut short.', 'right (100 B'])
        ->assertSee('4 s');
});

it('shows what expired, in one plan as one thing, and what of it was not deleted', function (): void {
    foreach (['a', 'b'] as $i => $name) {
        DB::table('expiries')->insert([
            'workload_id' => $this->workload->id, 'copy_id' => 900 + $i, 'set_name' => $name, 'store_name' => 'near', 'bytes' => 1000,
            'turn' => $i, 'planned_at' => now(), 'user_id' => $this->desk->operator->id, 'done_at' => $i === 0 ? now()->addSecond() : null,
            'failure' => $i === 0 ? null : 'b on near: it does not answer',
        ]);
    }
    $this->get('/activity?what=expired&result=failed')
        ->assertSee('2 sets')
        ->assertSee('1,000 B')
        ->assertSee($this->desk->operator->name);
    $this->get('/activity/expired/'.DB::table('expiries')->min('id'))
        ->assertSeeInOrder(['warning', 'b on near: it does not answer', 'a on near (1,000 B) was deleted.']);
});

it('keeps to its week in the zone of whoever looks, and to what is asked', function (): void {
    $this->desk->operator->update(['zone' => 'Pacific/Auckland']); // thirteen hours ahead: Monday began on Sunday, 11:00 UTC
    $store = Store::query()->value('id');
    foreach (['2026-10-04 10:59:59' => 'before', '2026-10-04 11:00:00' => 'within', '2026-10-11 11:00:00' => 'after'] as $at => $name) {
        Making::query()->create([
            'workload_id' => $this->workload->id, 'store_id' => $store, 'level' => 'full', 'why' => 'x', 'state' => 'done',
            'set_name' => "made-$name", 'created_at' => $at, 'started_at' => $at, 'ended_at' => $at,
        ]);
    }
    $this->get('/activity')->assertSee('made-within')->assertDontSee('made-before')->assertDontSee('made-after');
    $this->get('/activity?week=2026-W40')->assertSee('made-before')->assertDontSee('made-within')->assertSee('week 40');
    $this->get('/activity?week=2026-W40&what=mended')->assertSee('Nothing of that was done in this week.');
    $this->get("/activity?workload={$this->workload->id}&kind=files&person=nobody")->assertSee('made-within');
    $this->get('/activity?kind=database')->assertDontSee('made-within');
    $this->get("/activity?person={$this->desk->operator->id}")->assertDontSee('made-within');
    $this->get('/activity?'.http_build_query(['week' => 'x', 'what' => 'no', 'person' => "1' OR 1", 'workload' => '-3', 'kind' => '%']))
        ->assertOk()
        ->assertSee('made-within');
});

it('shows nobody what is done to workloads that they do not see', function (): void {
    Making::query()->create([
        'workload_id' => $this->workload->id, 'store_id' => Store::query()->value('id'), 'level' => 'full', 'why' => 'x', 'state' => 'done',
        'set_name' => 'secret-set',
    ]);
    $id = Making::query()->value('id');
    $stranger = $this->person(Role::Operator, ['engine room']);
    $this->actingAs($stranger)->get('/activity')->assertOk()->assertDontSee('secret-set');
    $this->get("/activity/made/$id")->assertForbidden();
    $this->get("/activity?workload={$this->workload->id}")->assertDontSee('secret-set');
    $this->actingAs($this->person(Role::Requester))->get('/activity')->assertForbidden();
    $this->actingAs($this->desk->operator)->get('/activity/burnt/1')->assertNotFound();
    $this->get('/activity/made/999999')->assertNotFound();
});

it('counts by sort what an obvious count by hand gives', function (): void {
    mt_srand(41);
    $expected = [];
    for ($i = 0; $i < 120; $i++) {
        $state = ['done', 'failed', 'missed', 'running', 'queued'][mt_rand(0, 4)];
        $at = now()->startOfWeek()->subDays(3)->addMinutes(mt_rand(0, 60 * 24 * 12));
        Making::query()->create([
            'workload_id' => $this->workload->id, 'store_id' => Store::query()->value('id'), 'level' => 'full', 'why' => 'x',
            'state' => $state, 'created_at' => $at, 'started_at' => $at, 'ended_at' => $at->addSeconds(3),
        ]);
        if ($at >= now()->startOfWeek() && $at <= now()->startOfWeek()->addWeek()) {
            $result = ['done' => 'right', 'failed' => 'failed', 'missed' => 'failed', 'running' => 'going', 'queued' => 'going'][$state];
            $expected[$result] = ($expected[$result] ?? 0) + 1;
        }
    }
    $this->desk->operator->update(['zone' => 'UTC']);
    foreach ($expected as $result => $count) {
        $filter = new App\Activity\ActivityFilter(new Illuminate\Http\Request(['result' => $result]), 'UTC');
        $activities = new Activities($this->desk->operator, $filter);
        $sum = $activities->sums()->firstWhere('sort', ActivitySort::Made->value);
        expect((int) $sum->count)->toBe($count)->and($activities->page()->total())->toBe($count);
    }
});
