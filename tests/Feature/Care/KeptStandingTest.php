<?php

declare(strict_types=1);

use App\Care\Expiry;
use App\Care\KeepRules;
use App\Care\KeptStanding;
use App\Care\StandingOf;
use App\Jobs\LookAtStores;
use App\Jobs\ReckonStale;
use App\Jobs\ReckonStanding;
use App\Models\Copy;
use App\Models\Hold;
use App\Models\Role;
use App\Models\Workload;
use App\Sets\Points;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Tests\Support\Archives;

// Pages show how things stood when they were looked at last, and look at nothing themselves.

beforeEach(function (): void {
    $this->archives = new Archives($this->scratch());
    foreach (['full', 'incr', 'full'] as $level) {
        $this->archives->put('roster.csv', bin2hex(random_bytes(8)));
        $this->files[] = $this->archives->file($this->archives->dump($level));
    }
    $this->kaiseki('adopt', $this->archives->folder, '--as=crew');
    $this->workload = Workload::query()->sole();
    $this->care = "/workloads/{$this->workload->id}/care";
    $this->actingAs($this->person(Role::Operator));
});

it('keeps what was seen, as if it were looked at now', function (): void {
    $this->workload->update(['rpo_s' => 3600, 'rto_s' => 1, 'needs_outside_copy' => true]);
    $kept = KeptStanding::of($this->workload);
    $now = new StandingOf($this->workload, new Points($this->workload));
    expect($kept->standing->concerns())
        ->toEqual($now->standing->concerns())
        ->and($kept->newestAt()?->equalTo($now->newest->capturedAt()))
        ->toBeTrue()
        ->and($kept->isBeingReckoned)
        ->toBeFalse();
});

it('shows nothing new until it was looked at again, and then what changed', function (): void {
    array_map(unlink(...), $this->files);
    foreach (['/estate', '/stores', $this->care] as $page) {
        $this->get($page)->assertOk()->assertDontSee('is usable.')->assertDontSee('There is no file');
    }
    $this->post('/look-again')->assertRedirect();
    $this->get('/estate')->assertSee('None of its 3 points is usable.');
    $this->get($this->care)->assertSee('None of its 3 points is usable.');
    $this->get('/stores')->assertSee('There is no file');
});

it('writes nothing and looks at no copy when a page is read', function (string $page): void {
    KeepRules::settle($this->workload, null, 'last=1', false, false);
    $this->look();
    $page = str_replace('CARE', $this->care, $page);
    $this->get($page); // who was seen last, and the like
    rename($this->archives->folder, "{$this->archives->folder}-away");
    $writes = [];
    DB::listen(function ($query) use (&$writes): void {
        if (preg_match('/^\s*(insert|update|delete|replace)/i', $query->sql) === 1 && ! str_contains($query->sql, 'sessions')) {
            $writes[] = $query->sql;
        }
    });
    $this->get($page)->assertOk()->assertDontSee('does not answer');
    expect($writes)->toBe([]);
})->with(['/estate', '/stores', 'CARE']);

it('asks the database no more for three hundred workloads than for three', function (string $page): void {
    $count = function () use ($page): int {
        $queries = 0;
        DB::listen(function () use (&$queries): void {
            $queries++;
        });
        $this->get($page)->assertOk();
        DB::getEventDispatcher()?->forget(Illuminate\Database\Events\QueryExecuted::class);

        return $queries;
    };
    foreach (range(1, 2) as $i) {
        Workload::query()->create(['name' => "w$i", 'kind' => 'files']);
    }
    $this->look();
    $this->get($page);
    $few = $count();
    foreach (range(3, 300) as $i) {
        $workload = Workload::query()->create(['name' => "w$i", 'kind' => 'files']);
        DB::table('standings')->insert([
            'said' => DB::table('standings')->where('workload_id', $this->workload->id)->value('said'),
            'workload_id' => $workload->id,
            'reckoned_at' => now(),
        ]);
    }
    expect($count())->toBe($few);
})->with(['/estate', '/stores']);

it('says of a workload that nobody looked at yet that it was not, and has it looked at', function (): void {
    config(['queue.looks' => null]);
    DB::table('standings')->delete();
    $this->get('/estate')->assertSee('It was not looked at yet')->assertSee('It is being looked at.')->assertSee('every 2s');
    $this->get($this->care)->assertOk()->assertSee('It was not looked at yet');
    Queue::fake();
    (new ReckonStale)->handle();
    Queue::assertPushed(fn (ReckonStanding $job): bool => $job->workload === $this->workload->id);
    Queue::assertPushed(LookAtStores::class);
});

it('looks again at what nobody looked at for five minutes, and not sooner', function (): void {
    Queue::fake();
    (new ReckonStale)->handle();
    Queue::assertNotPushed(ReckonStanding::class);
    $this->travel(6)->minutes();
    (new ReckonStale)->handle();
    Queue::assertPushed(ReckonStanding::class, 1);
});

it('says while it is waited for that it is being looked at again', function (): void {
    config(['queue.looks' => 'database']);
    $this->post("/workloads/{$this->workload->id}/promises", ['rpo' => '1h', 'rto' => '', 'outside' => 1])->assertSessionHasNoErrors();
    $this->post("/workloads/{$this->workload->id}/promises", ['rpo' => '2h', 'rto' => '', 'outside' => 1]);
    expect(DB::table('jobs')->where('queue', 'looks')->count())->toBe(1);
    // What was promised counts at once; what was seen is from before.
    $this->get($this->care)->assertSee('it is being looked at again.')->assertSee('every 2s')->assertSee('at most 2 h are promised');
    $this->artisan('queue:work', ['--queue' => 'looks', '--stop-when-empty' => true, '--memory' => 4096]);
    $this->get($this->care)->assertDontSee('it is being looked at again.')->assertDontSee('every 2s');
});

it('deletes by what is reckoned then, not by what a page kept', function (): void {
    $ours = $this->scratch()->folder('ours');
    $this->kaiseki('store-add', 'ours', $ours);
    foreach ($this->workload->sets as $set) {
        $this->kaiseki('copy', 'crew', $set->name, '--to=ours');
    }
    KeepRules::settle($this->workload, null, 'last=1', false, false);
    $this->look();
    $kept = KeptStanding::of($this->workload)->expiry;
    expect($kept->copies)->toBe(2)->and($kept->fingerprint)->toBe((new Expiry($this->workload))->fingerprint());
    $this->get($this->care)->assertSee('Yes, delete 2 copies');
    // Held since the page was made.
    $this->kaiseki('hold', 'crew', $this->workload->sets->first()->name, '--reason=An auditor asked for it');
    $this->post("/workloads/{$this->workload->id}/expire", ['plan' => $kept->fingerprint])->assertSessionHasErrors('plan');
    // Held after it was confirmed, before the lock was had.
    $confirmed = new Expiry($this->workload);
    expect($confirmed->plan->expiring)->not->toBe([]);
    foreach ($this->workload->sets as $set) {
        Hold::query()->create(['set_id' => $set->id, 'reason' => 'since']);
    }
    expect(fn () => $confirmed->carryOut(null))->toThrow(App\Sets\CannotRegister::class, 'changed since it was shown');
    expect(Copy::query()->count())->toBe(6);
});
