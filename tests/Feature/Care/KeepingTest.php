<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Hold;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;
use Tests\Support\TreeListing;

/* Keeping: what the rules say, what points need, and that exactly the rest goes. */

/** @return array<string, array<string, string>> set => listing of the tree at it; two stores, "near" with all and "far" with some */
function keptNights(Tests\TestCase $test, int $seed, int $nights): array
{
    $scratch = $test->scratch();
    $random = new Randomizer(new Mt19937($seed));
    foreach (['near', 'far'] as $store) {
        $test->kaiseki('store-add', $store, $scratch->folder($store));
    }
    $source = $scratch->folder('host/files');
    $host = new FileHost(dirname($source));
    $trees = [];
    for ($night = 0; $night < $nights; $night++) {
        for ($i = $random->getInt(1, 5); $i > 0; $i--) {
            $path = 'd'.$random->getInt(1, 3).'/f'.$random->getInt(1, 6);
            $random->getInt(0, 4) === 0
                ? $scratch->run('rm', '-f', "$source/$path")
                : $scratch->file("host/files/$path", "night $night ".$random->getInt(0, 9999));
        }
        clearstatcache(true);
        $host->setClock(Instant::of((new DateTimeImmutable('2026-09-01T02:00:00Z'))->modify("+$night days")));
        $set = $test
            ->kaiseki(
                'protect',
                'tree',
                "--source=$source",
                '--store=near',
                '--level='.($night % 7 === 0 ? 'full' : ['incr', 'incr', 'diff'][$random->getInt(0, 2)]),
                '--json',
            )
            ->json()['set'];
        if ($random->getInt(0, 1) === 1) {
            $test->kaiseki('copy', 'tree', $set, '--to=far');
        }
        $trees[$set] = TreeListing::of($source);
    }

    return $trees;
}

it('deletes what no rule keeps, frees what it says, and leaves every other point whole', function (int $seed): void {
    $trees = keptNights($this, $seed, 24);
    $scratch = $this->scratch();
    $used = fn (): int => array_sum(
        array_map(intval(...), explode("\n", $scratch->run('find', 'near', 'far', '-name', '*.tar.gz', '-printf', "%s\n"))),
    );
    $this->kaiseki('keep', 'tree', 'last=2 daily=5 weekly=2', '--store=near');
    $this->kaiseki('keep', 'tree', 'weekly=3');
    $plan = $this->kaiseki('expire', 'tree', '--json')->json();
    expect($plan['expiring'])
        ->not->toBeEmpty()
        ->and(Copy::query()->count())
        ->toBe(24 + Copy::query()->whereHas('store', fn ($query) => $query->where('name', 'far'))->count());
    $before = $used();
    $done = $this->kaiseki('expire', 'tree', '--yes', '--json')->json();
    expect($before - $used())
        ->toBe($plan['bytes'])
        ->and($done['done']['bytes'])
        ->toBe($plan['bytes'])
        ->and(BackupSet::query()->pluck('name')->all())
        ->toEqualCanonicalizing(array_values(array_diff(array_keys($trees), $plan['sets_gone'])));
    // Nothing of the deleted stays beside them, and the files of those that stay are all there.
    foreach (['near', 'far'] as $store) {
        $there = array_map(
            fn (string $file): string => preg_replace('/\.(tar\.gz|manifest\.jsonl|b2sum|set\.json)$/', '', basename($file)),
            glob("{$scratch->path}/$store/tree/*") ?: [],
        );
        expect(array_values(array_unique($there)))->toEqualCanonicalizing(
            BackupSet::query()
                ->whereHas('copies', fn ($query) => $query->whereHas('store', fn ($q) => $q->where('name', $store)))
                ->pluck('name')
                ->all(),
        );
    }
    // Every point that is left is as it was, by restoring it and by browsing it.
    foreach ($this->kaiseki('points', 'tree', '--json')->json()['points'] as $point) {
        expect($point['usable'])->toBe('whole');
        $to = $scratch->folder("back-{$point['set']}");
        expect($this->kaiseki('restore', 'tree', "--point={$point['set']}", '--path=/', "--to=$to")->code)->toBe(0);
        expect(array_diff_key(TreeListing::of($to), ['' => 1]))->toBe($trees[$point['set']], "point {$point['set']} of seed $seed");
    }
    expect($this->kaiseki('expire', 'tree', '--json')->json()['expiring'])->toBe([]);
    // And the next set goes on from what is left.
    $scratch->file('host/files/new', 'new');
    (new FileHost("{$scratch->path}/host"))->setClock(Instant::parse('2026-10-20T02:00:00Z'));
    $next = $this->kaiseki('protect', 'tree', '--store=near', '--level=incr', '--json')->json()['set'];
    $to = $scratch->folder('back-next');
    $this->kaiseki('restore', 'tree', "--point=$next", '--path=/', "--to=$to");
    expect(TreeListing::of($to))->toBe(TreeListing::of("{$scratch->path}/host/files"));
})->with([1, 2, 3]);

it('keeps what an open request, a run or a person needs, and says so', function (): void {
    $trees = keptNights($this, 7, 16);
    $sets = array_keys($trees);
    $this->kaiseki('keep', 'tree', 'last=1');
    $operator = $this->person(Role::Operator);
    $point = BackupSet::query()->where('name', $sets[9])->sole();
    $request = RecoveryRequest::query()->create([
        'workload_id' => $point->workload_id,
        'requester_id' => $operator->id,
        'summary' => 'x',
        'reason' => 'y',
        'wanted_at' => $point->captured_at->addHour(),
        'due_at' => now()->addHour(),
    ]);
    $gone = fn (): array => $this->kaiseki('expire', 'tree', '--json')->json()['sets_gone'];
    expect($gone())
        ->not->toContain($sets[9])
        ->not->toContain($sets[7]) // its full
        ->toContain($sets[0])
        ->and(Hold::query()->sole()->reason)
        ->toBe("request {$request->id} uses it");
    expect($this->kaiseki('hold', 'tree', $sets[2], '--reason=For the insurers.', '--until=2027-01-01T00:00:00Z')->code)
        ->toBe(0)
        ->and($gone())
        ->not->toContain($sets[2])
        ->not->toContain($sets[0])
        ->and($this->kaiseki('hold', 'tree', $sets[2])->code)
        ->toBe(2)
        ->and($this->kaiseki('hold', 'tree', $sets[2], '--reason=x', '--until=2020-01-01T00:00:00Z')->code)
        ->toBe(2);
    $this->kaiseki('restore', 'tree', "--point={$sets[4]}", '--path=/', '--in-place', '--conflict=replace');
    expect($gone())->not->toContain($sets[4]);
    $request->update(['state' => 'closed']);
    $this->kaiseki('hold', 'tree', $sets[2], '--lift');
    $now = $gone();
    expect($now)->toContain($sets[9])->toContain($sets[2]);
    $this->kaiseki('expire', 'tree', '--yes');
    expect(Run::query()->sole()->set_name)
        ->toBe($sets[4])
        ->and(BackupSet::query()->whereIn('name', $now)->count())
        ->toBe(0);
});

it('refuses rules and plans that leave nothing, unless that is said', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'one');
    $set = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect($this->kaiseki('keep', 'tree', 'last=0')->code)
        ->toBe(2)
        ->and($this->kaiseki('keep', 'tree', 'last=0', '--delete-everything')->code)
        ->toBe(0)
        ->and($this->kaiseki('expire', 'tree', '--json')->json()['expiring'])
        ->toBe([]) // adopted archives are not ours to delete
        ->and(is_file($archives->file($set)))
        ->toBeTrue();
    // A hold on them copies them to a store of ours, or says that it can't hold.
    $answer = $this->kaiseki('hold', 'tree', $set, '--reason=They rotate it away on Friday.');
    expect($answer->code)->toBe(3)->and($answer->text)->toContain("can't be held");
    $this->kaiseki('store-add', 'ours', $this->scratch()->folder('ours'));
    expect($this->kaiseki('hold', 'tree', $set, '--reason=They rotate it away on Friday.', '--json')->json()['copied'])->toBe(1);
    unlink($archives->file($set));
    expect($this->kaiseki('points', 'tree', '--json')->json()['points'][0]['usable'])->toBe('whole');
    $this->kaiseki('hold', 'tree', $set, '--lift');
    Copy::query()->whereHas('store', fn ($query) => $query->where('read_only', true))->delete();
    expect($this->kaiseki('expire', 'tree', '--yes')->code)
        ->toBe(3)
        ->and($this->kaiseki('expire', 'tree', '--yes', '--delete-everything')->code)
        ->toBe(0)
        ->and(Workload::query()->sole()->sets()->count())
        ->toBe(0);
});

it('keeps a set that bridges a damaged one for a point that stays', function (): void {
    $scratch = $this->scratch();
    $this->kaiseki('store-add', 'near', $scratch->folder('near'));
    $source = $scratch->folder('host/files');
    $host = new FileHost(dirname($source));
    $sets = [];
    foreach (['full', 'full', 'incr'] as $day => $level) {
        $scratch->file('host/files/steady', 'the same all the time, and in both fulls');
        $scratch->file("host/files/day$day", "day $day");
        $host->setClock(Instant::parse('2026-10-0'.($day + 1).'T02:00:00Z'));
        $sets[] = $this->kaiseki('protect', 'tree', "--source=$source", '--store=near', "--level=$level", '--json')->json()['set'];
    }
    $this->kaiseki('keep', 'tree', 'last=1');
    expect($this->kaiseki('expire', 'tree', '--json')->json()['sets_gone'])->toBe([$sets[0]]);
    unlink("{$scratch->path}/near/tree/{$sets[1]}.tar.gz");
    expect($this->kaiseki('points', 'tree', '--json')->json()['points'][2]['usable'])
        ->toBe('part') // day1 is gone, the rest is bridged
        ->and($this->kaiseki('expire', 'tree', '--json')->json()['sets_gone'])
        ->toBe([]);
});
