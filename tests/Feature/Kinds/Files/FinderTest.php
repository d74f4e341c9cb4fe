<?php

declare(strict_types=1);

use App\Kinds\Files\Order\FilesSaid;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Workload;
use Illuminate\Support\Carbon;
use Tests\Support\Archives;

/* What the finder answers, on the command line and on the worksheet. */

beforeEach(function (): void {
    $this->archives = (new Archives($this->scratch()))->put('rosters/week-40.csv', 'forty')->put('log', 'first');
    $this->full = $this->archives->dump('full');
    $this->archives->put('log', 'second')->put('only-here', 'x');
    $this->second = $this->archives->dump('incr');
    $this->archives->put('log', 'third')->delete('rosters')->delete('only-here');
    $this->third = $this->archives->dump('incr');
    $this->kaiseki('adopt', $this->archives->folder, '--as=crew');
    $this->operator = $this->person(Role::Operator);
    $this->request = fn (array $more): RecoveryRequest => RecoveryRequest::query()
        ->create(
            $more + [
                'workload_id' => Workload::query()->value('id'),
                'requester_id' => $this->operator->id,
                'summary' => 'x',
                'reason' => 'y',
                'wanted_at' => '2026-10-03 12:00:00',
                'due_at' => now()->addHour(),
            ],
        )
        ->refresh();
});

it('lists the points of a sheet, with what each rests on and why one cannot be used', function (): void {
    $sheet = $this->scratch()->file(
        'sheet.json',
        (string) json_encode([
            'stores' => [['name' => 's', 'read_mb_s' => 10], ['name' => 't', 'read_mb_s' => 1]],
            'sets' => [
                [
                    'id' => 'F',
                    'level' => 'full',
                    'captured_at' => '2026-10-01T02:00:00Z',
                    'history' => 'old',
                    'copies' => [['store' => 's']],
                ],
                [
                    'id' => 'I',
                    'level' => 'incr',
                    'captured_at' => '2026-10-02T02:00:00Z',
                    'history' => 'old',
                    'copies' => [['store' => 's', 'state' => 'damaged'], ['store' => 't']],
                ],
                [
                    'id' => 'J',
                    'level' => 'incr',
                    'captured_at' => '2026-10-03T02:00:00Z',
                    'history' => 'new',
                    'copies' => [['store' => 's']],
                ],
            ],
        ]),
    );
    $answer = $this->kaiseki('points', "--sheet=$sheet", '--at=2026-10-05T00:00:00Z', '--json')->json();
    expect(array_column($answer['points'], 'usable'))
        ->toBe(['whole', 'whole', 'no'])
        ->and(array_column($answer['points'], 'history'))
        ->toBe(['old', 'old', 'new']);
    expect($answer['points'][1]['base_assumed'])
        ->toBeTrue()
        ->and($answer['chosen'])
        ->toBe('I')
        ->and($answer['passed_over'][0]['because'])
        ->toContain('could rest on');
    $avoided = $this->kaiseki('points', "--sheet=$sheet", '--at=2026-10-05T00:00:00Z', '--avoid=t', '--json')->json();
    expect($avoided['chosen'])->toBe('F')->and($avoided['passed_over'][1]['because'])->toContain('to be avoided');
    expect($this->kaiseki('points', "--sheet=$sheet", '--avoid=nowhere')->code)->toBe(2);
    expect($this->kaiseki('points', "--sheet={$sheet}x")->code)
        ->toBe(2)
        ->and($this->kaiseki('points')->code)
        ->toBe(2);
});

it('judges points by what is selected, and by the copies that may be read', function (): void {
    unlink($this->archives->file($this->second));
    $points = fn (string ...$more): array => array_column(
        $this->kaiseki('points', 'crew', '--json', ...$more)->json()['points'],
        'usable',
        'set',
    );
    expect($points())->toBe([$this->full => 'whole', $this->second => 'part', $this->third => 'whole']);
    expect($points('--path=/tree/rosters'))->toBe([$this->full => 'whole', $this->second => 'whole', $this->third => 'whole']);
    expect($points('--path=/tree/only-here')[$this->second])->toBe('part');
    $none = $this->kaiseki('plan', 'crew', '--at=2026-10-04T00:00:00Z', '--avoid=adopted-crew', '--json');
    expect($none->code)->toBe(3)->and($none->json()['passed_over'])->toHaveCount(3);
});

it('says what is odd about a moment, with the nearest point', function (): void {
    $early = $this->kaiseki('plan', 'crew', '--at=2025-01-01T00:00:00Z', '--json');
    expect($early->code)
        ->toBe(3)
        ->and($early->json()['remarks'][0])
        ->toContain('before the first point')
        ->toContain($this->full)
        ->and($early->json()['alternatives']['after'])
        ->toBe($this->full);
    $late = $this->kaiseki('plan', 'crew', '--at=2199-01-01T00:00:00Z', '--json');
    expect($late->code)
        ->toBe(0)
        ->and($late->json()['remarks'][0])
        ->toContain('in the future')
        ->and($late->json()['point'])
        ->toBe($this->third);
    expect($this->kaiseki('plan', 'crew', '--at=2026-10-04T00:00:00')->code)->toBe(2);
    $page = $this->actingAs($this->operator)->get(
        '/requests/'.($this->request)(['wanted_at' => '2025-01-01 00:00:00'])->id.'?show=when',
    );
    $page->assertSee('before the first point')->assertSee('nearest after');
    $this->get('/requests/'.($this->request)(['wanted_at' => now()->addYear()])->id.'?show=when')->assertSee('still to come');
});

it('demands that a point is no older than so much, on the page and on the command line', function (): void {
    $request = ($this->request)(['wanted_at' => '2026-10-05 12:00:00']);
    $this->actingAs($this->operator)
        ->post("/requests/{$request->id}/demands", ['demand' => 'within', 'within' => '12h'])
        ->assertSessionHasNoErrors();
    expect($request->refresh()->demands)->toBe('consistent,clear,within=12h');
    $this->get("/requests/{$request->id}?show=when")
        ->assertSee('no usable point')
        ->assertSee('more than 12h older')
        ->assertSee('nearest before');
    $this->post("/requests/{$request->id}/demands", ['demand' => 'within', 'within' => '']);
    expect($request->refresh()->demands)->toBe('consistent,clear');
    $this->post("/requests/{$request->id}/demands", ['demand' => 'within', 'within' => 'soon'])->assertSessionHasErrors('within');
    expect($this->kaiseki('plan', 'crew', '--at=2026-10-05T12:00:00Z', '--demand=within=12h')->code)->toBe(3);
    expect($this->kaiseki('plan', 'crew', '--at=2026-10-05T12:00:00Z', '--demand=within=4d')->code)->toBe(0);
    expect($this->kaiseki('plan', 'crew', '--at=2026-10-05T12:00:00Z', '--demand=within=0h')->code)->toBe(2);
});

it('says when something that is not in the point was last there, and offers that point', function (): void {
    $request = ($this->request)(['lost' => '/tree/rosters/week-40.csv']);
    $page = $this->actingAs($this->operator)->get("/requests/{$request->id}?show=what");
    $second = Workload::query()->sole()->sets()->where('name', $this->second)->sole();
    $page
        ->assertSee('it was last there on')
        ->assertSee('Fri 2 Oct 04:00')
        ->assertSee('value="'.$second->id.'"', false);
    $this->post("/requests/{$request->id}/point", ['set' => $second->id]);
    $this->get("/requests/{$request->id}?show=what")
        ->assertDontSee('it was last there')
        ->assertSee('Picked already, since it was asked for and is there');
    // A thing of that name that was elsewhere is found as well.
    $moved = ($this->request)(['lost' => 'S:\\Office\\only-here']);
    $this->get("/requests/{$moved->id}?show=what")
        ->assertSee('/tree/only-here')
        ->assertSee('it was last there on');
    $never = ($this->request)(['lost' => '/tree/never-was']);
    $this->get("/requests/{$never->id}?show=what")
        ->assertDontSee('last there')
        ->assertSee('Nothing of that or a similar name');
});

it('lists what a damaged point does not give back, judged by what is selected', function (): void {
    unlink($this->archives->file($this->second));
    $second = Workload::query()->sole()->sets()->where('name', $this->second)->sole();
    $request = ($this->request)(['set_id' => $second->id]);
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}?show=when")
        ->assertSee('Not given back by this point')
        ->assertSee('/tree/only-here')
        ->assertSee('in part')
        ->assertSee('Your own choice');
    (new FilesSaid)
        ->select(['tree/rosters'])
        ->keepOn($request)
        ->save();
    $this->get("/requests/{$request->id}?show=when")->assertDontSee('Not given back by this point');
    (new FilesSaid)->keepOn($request)->update(['set_id' => null, 'wanted_at' => '2026-10-02 12:00:00']);
    $this->get("/requests/{$request->id}?show=when")
        ->assertSee('one newer was passed over')
        ->assertSee('in no archive that can be read');
    // The third rests on the second, and is whole all the same.
    $this->get("/requests/{$request->id}?show=when&days=30")->assertSee('other sets go round it');
});

it('takes the wanted moment in words, in the zone of whoever asks, and keeps how it was said', function (): void {
    Carbon::setTestNow('2026-11-23T10:00:00Z');
    $this->actingAs($this->operator)
        ->post('/requests', ['summary' => 'x', 'reason' => 'y', 'wanted_at' => 'Thursday evening', 'due_at' => '2026-11-24T12:00'])
        ->assertSessionHasNoErrors();
    $request = RecoveryRequest::query()->sole();
    expect($request->wanted_at->toIso8601String())
        ->toBe('2026-11-19T21:00:00+00:00')
        ->and($request->wanted_words)
        ->toBe('Thursday evening');
    Carbon::setTestNow('2026-11-30T10:00:00Z');
    $this->actingAs($this->operator)->post("/requests/{$request->id}/workload", ['workload' => Workload::query()->value('id')]);
    $this->get("/requests/{$request->id}?show=when")->assertSee('Thu 19 Nov 17:00 +01:00 to Thu 19 Nov 22:00 +01:00');
    $this->post("/requests/{$request->id}/moment", ['wanted_at' => '2026-10-25 02:30']);
    $this->get("/requests/{$request->id}?show=when")
        ->assertSee('two 02:30')
        ->assertSee('Take the second')
        ->assertSee('value="2026-10-25T01:30:00Z"', false);
    $this->post("/requests/{$request->id}/moment", ['wanted_at' => '2026-10-25T01:30:00Z']);
    expect($request->refresh()->wanted_at->toIso8601String())
        ->toBe('2026-10-25T01:30:00+00:00')
        ->and($request->wanted_words)
        ->toBeNull();
    $this->post('/requests', [
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => 'whenever',
        'due_at' => '2026-11-24T12:00',
    ])->assertSessionHasErrors('wanted_at');
    $this->post('/requests', [
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => 'yesterday',
        'noticed_at' => '2026-11-20T10:00',
        'due_at' => '2026-12-24T12:00',
    ])->assertSessionHasErrors('noticed_at');
    Carbon::setTestNow();
});
