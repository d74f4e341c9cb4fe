<?php

declare(strict_types=1);

use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Places\BridgeSearch;
use App\Trees\TreeJudge;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

/* What lost archives take with them, and what other sets hold: judged by everything, by a selection, and by both searches. */

/**
 * @return array{array<string, array<string, string>>, array<string, true>} set => path => content; contents that the archives that are
 *     left hold
 */
function damagedChain(Closure $adopt, Archives $archives, Randomizer $random, bool $late): array
{
    $held = [];
    foreach (range(0, 7) as $day) {
        foreach (range(1, 5) as $_) {
            $path = 'd'.$random->getInt(1, 3).'/e'.$random->getInt(1, 2).'/f'.$random->getInt(1, 3);
            $random->getInt(0, 3) === 0 ? $archives->delete($path) : $archives->put($path, "day $day ".$random->getInt(0, 1));
        }
        $set = $archives->dump($day === 0 ? 'full' : ['full', 'diff', 'incr', 'incr', 'incr', 'incr'][$random->getInt(0, 5)]);
        $held[$set] = [];
        foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($archives->source, FilesystemIterator::SKIP_DOTS)) as $file) {
            $held[$set]['tree/'.substr($file->getPathname(), strlen($archives->source) + 1)] = (string) file_get_contents(
                $file->getPathname(),
            );
        }
    }
    if ($late) {
        $aside = $archives->scratch->folder('aside');
        $later = array_keys($held)[$random->getInt(1, 5)];
        rename($archives->file($later), "$aside/$later");
        $adopt($archives->folder);
        rename("$aside/$later", $archives->file($later));
    }
    expect($adopt($archives->folder)->code)->toBe(0);
    $left = [];
    foreach (array_keys($held) as $set) {
        if ($random->getInt(0, 2) === 0) {
            unlink($archives->file($set));

            continue;
        }
        $folder = $archives->scratch->folder("x-$set");
        $archives->scratch->run('tar', '-xzf', $archives->file($set), '-C', $folder);
        foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS)) as $file) {
            $left[(string) file_get_contents($file->getPathname())] = true;
        }
    }

    return [$held, $left];
}

it('names exactly the files of a selection that are lost at each point, as extracting what is left with tar does', function (
    int $seed,
): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch());
    [$held, $left] = damagedChain(
        fn (string $folder): Tests\Support\Answer => $this->kaiseki('adopt', $folder, '--as=tree'),
        $archives,
        $random,
        $seed % 2 === 0,
    );
    $points = new Points(Workload::query()->sole());
    $selections = [[''], ['tree/d1'], ['tree/d2/e1', 'tree/d3'], ['tree/d1/e1/f1'], ['tree/d9']];
    foreach ($selections as $paths) {
        $counts = TreeJudge::of($points)->lost()->countsWithin($paths);
        $finder = $points->finder($paths);
        foreach ($held as $name => $files) {
            $set = $points->set($name);
            assert($set !== null);
            $within = fn (string $path): bool => array_filter(
                $paths,
                fn (string $above): bool => $above === '' || $path === $above || str_starts_with($path, "$above/"),
            ) !== [];
            $lost = array_keys(
                array_filter(
                    $files,
                    fn (string $content, string $path): bool => ! isset($left[$content]) && $within($path),
                    ARRAY_FILTER_USE_BOTH,
                ),
            );
            sort($lost);
            $about = "$name, seed $seed, ".implode(' ', $paths);
            expect(TreeJudge::of($points)->lost()->pathsAt($set, $paths))->toBe($lost, $about);
            expect($counts[$set->id] ?? 0)->toBe(count($lost), $about);
            expect($finder->blocks($set->set, Kaiseki\Core\Chain\Demands::none()) === null)->toBe($lost === [], $about);
        }
    }
    // A point that is whole although its chain has an unreadable set is bridged, and no other is.
    foreach ($held as $name => $files) {
        $set = $points->set($name);
        assert($set !== null);
        $broken = $points->chains->lowestUnreadable($name) !== null;
        expect($points->bridged($set) !== null)->toBe($broken && $points->usable($set) === 'whole', $name);
    }
})->with(range(1, 8));

it('finds what only unreadable sets hold, whether it looks for each or goes through all', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    damagedChain(
        fn (string $folder): Tests\Support\Answer => $this->kaiseki('adopt', $folder, '--as=tree'),
        new Archives($this->scratch()),
        $random,
        false,
    );
    $points = new Points(Workload::query()->sole());
    for ($round = 0; $round < 20; $round++) {
        $unreadable = array_values(array_filter(array_keys($points->sets), fn (): bool => $random->getInt(0, 2) === 0));
        $each = (new BridgeSearch($points->sets))->lostDigests($unreadable);
        $all = (new BridgeSearch($points->sets, [], 0))->lostDigests($unreadable);
        sort($each);
        sort($all);
        expect(array_map(bin2hex(...), $each))->toBe(array_map(bin2hex(...), $all));
    }
})->with([21, 22, 23]);

it('forgets what it kept of the losses as soon as other sets are unreadable', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('b', 'two');
    $second = $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $usable = fn (): array => array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'usable');
    $kept = fn (string $set): string => $this->scratch()->path."/kept-$set";
    rename($archives->file($full), $kept($full));
    expect($usable())
        ->toBe(['no', 'part'])
        ->and($usable())
        ->toBe(['no', 'part']);
    rename($archives->file($second), $kept($second));
    expect($usable())->toBe(['no', 'no']);
    rename($kept($full), $archives->file($full));
    expect($usable())->toBe(['whole', 'part']);
    file_put_contents(getenv('KAISEKI_HOME').'/cache/lost-'.Workload::query()->value('id'), 'not what it wrote');
    expect($usable())->toBe(['whole', 'part']);
    rename($kept($second), $archives->file($second));
    expect($usable())->toBe(['whole', 'whole']);
});

it('asks the database no more for three hundred sets than for three', function (): void {
    $asked = function (int $days): int {
        $workload = drawnWorkloadFor("asked-$days", $days);
        $operator = $this->person(Role::Operator);
        $request = RecoveryRequest::query()->create([
            'workload_id' => $workload->id,
            'requester_id' => $operator->id,
            'summary' => 'x',
            'reason' => 'y',
            'wanted_at' => '2026-01-06 12:00:00',
            'due_at' => now()->addHour(),
        ]);
        DB::enableQueryLog();
        DB::flushQueryLog();
        $this->actingAs($operator)
            ->get("/requests/{$request->id}?show=when&days=400")
            ->assertOk();

        return count(DB::getQueryLog());
    };
    $few = $asked(3);
    expect($asked(300))->toBeLessThanOrEqual($few)->and($few)->toBeLessThan(30);
});

/** Sets without archives, as outlines need no more. */
function drawnWorkloadFor(string $name, int $days): Workload
{
    $workload = Workload::query()->create(['name' => $name, 'kind' => 'files']);
    $history = App\Models\History::query()->create(['workload_id' => $workload->id, 'name' => '1']);
    $store = App\Models\Store::query()->firstOrCreate(['name' => 'nowhere'], ['site' => 'boathouse', 'root' => '/nowhere']);
    for ($day = 0; $day < $days; $day++) {
        $at = Carbon\CarbonImmutable::parse('2026-01-04T01:15:00Z')->addDays($day);
        $set = App\Models\BackupSet::query()->create([
            'workload_id' => $workload->id,
            'history_id' => $history->id,
            'name' => "$name.$day",
            'level' => $day % 7 === 0 ? 'full' : 'incr',
            'instant' => $at->getTimestamp() * 1_000_000,
            'captured_at' => $at,
            'bytes' => 1,
            'cataloged' => 'whole',
            'tree_files' => 1,
        ]);
        App\Models\Copy::query()->create([
            'set_id' => $set->id,
            'store_id' => $store->id,
            'path' => $set->name,
            'bytes' => 1,
            'state' => 'offline',
        ]);
    }

    return $workload;
}
