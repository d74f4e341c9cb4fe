<?php

declare(strict_types=1);

use App\Care\PlannedChecks;
use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Copy;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\TreeJudge;
use Kaiseki\Core\Instant;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;
use Tests\Support\Scratch;

/* Copies read back whole: what is wrong is found wherever it is, costs only what it touches, and is mended from other copies. */

/** A workload with a full and two increments of our own making on the store "near", each with a second copy on "far". */
function twoCopies(Tests\TestCase $test, Scratch $scratch, int $seed): Workload
{
    $random = new Randomizer(new Mt19937($seed));
    foreach (['near', 'far'] as $store) {
        expect($test->kaiseki('store-add', $store, $scratch->folder($store))->code)->toBe(0);
    }
    $source = $scratch->folder('host/files');
    $host = new Kaiseki\StandIns\FileHost(dirname($source));
    foreach (['full', 'incr', 'incr'] as $day => $level) {
        for ($i = 0; $i < 12; $i++) {
            $size = $random->getInt(0, 5) === 0 ? $random->getInt(200_000, 700_000) : $random->getInt(0, 4000);
            $scratch->file('host/files/d'.$random->getInt(1, 3)."/f$i", $size === 0 ? '' : $random->getBytes($size));
        }
        $host->setClock(Instant::parse('2026-10-0'.($day + 1).'T02:00:00Z'));
        $set = $test->kaiseki('protect', 'tree', "--source=$source", "--level=$level", '--store=near', '--json')->json()['set'];
        expect($test->kaiseki('copy', 'tree', $set, '--to=far')->code)->toBe(0);
    }

    return Workload::query()->sole();
}

function flipBit(string $file, int $at): void
{
    $bytes = (string) file_get_contents($file);
    $bytes[$at] = chr(ord($bytes[$at]) ^ (1 << $at % 8));
    file_put_contents($file, $bytes);
}

it('finds a bit that flipped anywhere in an archive, and what lies beside it or in the index', function (): void {
    twoCopies($this, $scratch = $this->scratch(), 5);
    $random = new Randomizer(new Mt19937(77));
    expect($this->kaiseki('check', 'tree', '--json')->json())->toMatchArray(['right' => 6, 'wrong' => 0]);
    $copies = Copy::query()->with('set', 'store')->get();
    for ($round = 0; $round < 120; $round++) {
        $copy = $copies[$random->getInt(0, 5)];
        $ending = ['.tar.gz', '.tar.gz', '.tar.gz', '.manifest.jsonl', '.b2sum', '.set.json'][$random->getInt(0, 5)];
        $file = dirname("{$copy->store->root}/{$copy->path}")."/{$copy->set->name}$ending";
        $at = $random->getInt(0, (int) filesize($file) - 1);
        flipBit($file, $at);
        $answer = $this->kaiseki('check', 'tree', "--set={$copy->set->name}", "--store={$copy->store->name}", '--json');
        expect($answer->code)
            ->toBe(4, "$file at $at")
            ->and($answer->json()['checks'][0]['because'])
            ->toContain($ending === '.tar.gz' ? 'bytes' : substr($ending, 1));
        flipBit($file, $at);
    }
    expect($this->kaiseki('check', 'tree', '--json')->json())->toMatchArray(['right' => 6, 'wrong' => 0]);
    $index = App\Sets\SetFiles::placeIndex($copies[0]->set_id);
    $before = file_get_contents($index);
    flipBit($index, 100);
    expect($this->kaiseki('check', 'tree', "--set={$copies[0]->set->name}", '--store=near', '--json')->json()['checks'][0])
        ->toMatchArray(['result' => 'mended'])
        ->and(file_get_contents($index))
        ->toBe($before);
});

it('tells a file that was cut, made longer, swapped, or put back from an older day', function (): void {
    twoCopies($this, $scratch = $this->scratch(), 6);
    [$first, $second] = BackupSet::query()->orderBy('instant')->pluck('name')->all();
    $file = fn (string $set): string => "{$scratch->path}/near/tree/$set.tar.gz";
    $original = (string) file_get_contents($file($second));
    $because = fn (): string => $this->kaiseki('check', 'tree', "--set=$second", '--store=near', '--json')->json()['checks'][0]['because'];
    file_put_contents($file($second), substr($original, 0, 777));
    expect($because())->toStartWith('It was cut short')->toContain('777');
    file_put_contents($file($second), $original.'more');
    expect($because())->toStartWith('It is longer than it was');
    file_put_contents($file($second), file_get_contents($file($first)));
    expect($because())->toStartWith("It is not this set's archive, but that of $first");
    file_put_contents($file($second), str_repeat('x', strlen($original)));
    expect($because())->toStartWith(strlen($original) > 262144 ? 'Nothing of it is what it was' : 'It is not what it was at');
    unlink($file($second));
    expect($this->kaiseki('check', 'tree', "--set=$second", '--store=near', '--json')->json()['checks'][0]['result'])->toBe('missing');
    file_put_contents($file($second), $original);
    expect($this->kaiseki('check', 'tree', "--set=$second", '--chain', '--json')->json())->toMatchArray(['right' => 4, 'wrong' => 0]);
    expect(array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'usable'))->toBe(['whole', 'whole', 'whole']);
    rename("{$scratch->path}/near", "{$scratch->path}/away");
    expect($this->kaiseki('check', 'tree', "--set=$second", '--store=near', '--json')->json()['checks'][0]['result'])
        ->toBe('silent')
        ->and(Copy::query()->where('state', 'damaged')->count())
        ->toBe(0);
});

it('counts only the contents that damage touches as lost, as GNU tar and gzip find them in what is left', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch(), $seed % 2 === 0 ? '.tar' : '.tar.gz');
    foreach (range(1, 9) as $i) {
        $archives->put("f$i", $random->getBytes($random->getInt(1, 90_000)));
    }
    $set = $archives->dump('full');
    expect($this->kaiseki('adopt', $archives->folder, '--as=tree')->code)->toBe(0);
    for ($flips = $random->getInt(1, 3); $flips > 0; $flips--) {
        flipBit($archives->file($set), $random->getInt(0, (int) filesize($archives->file($set)) - 1));
    }
    expect($this->kaiseki('check', 'tree')->code)->toBe(4);
    // The oracle: a plain tar is extracted, and each file compared; of a gzip stream what gzip writes until it stops.
    $scratch = $this->scratch();
    $scratch->folder('left');
    (new Symfony\Component\Process\Process(
        ['bash', '-c', 'cd left && '.($seed % 2 === 0 ? 'cat' : 'gzip -dcq').' "$0" | tar -xf - --ignore-zeros', $archives->file($set)],
        $scratch->path,
    ))->run();
    $lost = [];
    foreach (range(1, 9) as $i) {
        if (@file_get_contents("{$scratch->path}/left/tree/f$i") !== file_get_contents("{$archives->source}/f$i")) {
            $lost[] = "tree/f$i";
        }
    }
    $points = new Points(Workload::query()->sole());
    $found = TreeJudge::of($points)->lost()->pathsAt($points->sets[array_key_first($points->sets)]);
    if ($seed % 2 === 0) {
        expect($found)->toBe($lost);
    } else {
        // gzip gives up its last window of 32 KiB before the break, which we do not.
        expect(array_diff($found, $lost))->toBe([]);
    }
    $to = $scratch->folder('back');
    $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to=$to");
    foreach (range(1, 9) as $i) {
        expect(@file_get_contents("$to/tree/f$i") === file_get_contents("{$archives->source}/f$i"))->toBe(
            ! in_array("tree/f$i", $found, true),
        );
    }
})->with(range(1, 16));

it('mends copies from each other, piece by piece, also when all of them are damaged in different places', function (int $seed): void {
    twoCopies($this, $scratch = $this->scratch(), $seed);
    $random = new Randomizer(new Mt19937($seed));
    foreach (BackupSet::query()->get() as $set) {
        $file = fn (string $store): string => "{$scratch->path}/$store/tree/{$set->name}.tar.gz";
        $good = (string) file_get_contents($file('near'));
        $pieces = intdiv(strlen($good) - 1, 262144) + 1;
        if ($pieces < 2) {
            flipBit($file('near'), $random->getInt(0, strlen($good) - 1));
        } else {
            flipBit($file('near'), $random->getInt(0, 262143));
            flipBit($file('far'), $random->getInt(262144, strlen($good) - 1));
        }
        $bad = (string) file_get_contents($file('near'));
        expect($this->kaiseki('mend', 'tree', $set->name, '--store=near', '--json')->json())->toMatchArray([
            'result' => 'right',
            'store' => 'near',
        ]);
        expect(file_get_contents($file('near')) === $good)
            ->toBeTrue()
            ->and($bad === $good)
            ->toBeFalse();
        expect($this->kaiseki('mend', 'tree', $set->name, '--store=far')->code)
            ->toBe(0)
            ->and(file_get_contents($file('far')) === $good)
            ->toBeTrue();
        expect(glob("{$scratch->path}/*/tree/*aside*"))->toBe([]);
        unlink("{$scratch->path}/near/tree/{$set->name}.manifest.jsonl");
        unlink($file('near'));
        expect($this->kaiseki('mend', 'tree', $set->name, '--store=near')->code)
            ->toBe(0)
            ->and(is_file("{$scratch->path}/near/tree/{$set->name}.manifest.jsonl"))
            ->toBeTrue();
    }
    expect($this->kaiseki('check', 'tree', '--json')->json())->toMatchArray(['right' => 6, 'wrong' => 0]);
})->with([11, 12, 13]);

it('refuses to mend what is right nowhere, and leaves the bad file as it is', function (): void {
    twoCopies($this, $scratch = $this->scratch(), 8);
    $set = BackupSet::query()->orderBy('instant')->firstOrFail();
    foreach (['near', 'far'] as $store) {
        flipBit("{$scratch->path}/$store/tree/{$set->name}.tar.gz", 1000);
    }
    $before = file_get_contents("{$scratch->path}/near/tree/{$set->name}.tar.gz");
    $answer = $this->kaiseki('mend', 'tree', $set->name, '--store=near');
    expect($answer->code)
        ->toBe(3)
        ->and($answer->text)
        ->toContain('right on no copy')
        ->and(file_get_contents("{$scratch->path}/near/tree/{$set->name}.tar.gz"))
        ->toBe($before);
});

it('writes the good copy of an adopted set to a store of ours, since the adopted one is not ours to write to', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', str_repeat('ferry ', 200_000).random_bytes(600_000));
    $set = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $this->kaiseki('store-add', 'ours', $this->scratch()->folder('ours'));
    $this->kaiseki('store-add', 'second', $this->scratch()->folder('second'));
    expect($this->kaiseki('copy', 'tree', $set, '--to=second')->code)->toBe(0);
    $archives->flip($set, 5000);
    $damaged = file_get_contents($archives->file($set));
    expect($this->kaiseki('check', 'tree')->code)->toBe(4);
    $adopted = Store::query()->where('read_only', true)->value('name');
    expect($this->kaiseki('mend', 'tree', $set, "--store=$adopted", '--json')->json())
        ->toMatchArray(['result' => 'right', 'store' => 'ours'])
        ->and(file_get_contents($archives->file($set)))
        ->toBe($damaged);
});

it('reads back by plan what was checked longest ago, within the bytes and the hours of a night', function (): void {
    $workload = twoCopies($this, $this->scratch(), 9);
    $near = Store::query()->where('name', 'near')->sole();
    $sizes = Copy::query()->where('store_id', $near->id)->orderBy('id')->pluck('bytes')->all();
    $budget = $sizes[0] + $sizes[1];
    expect(
        $this->kaiseki('check-plan', 'near', '--mb='.$budget / 1e6, '--from=23:00', '--until=04:00', '--zone=Europe/Oslo')->code,
    )->toBe(0);
    $plan = new PlannedChecks;
    $at = function (string $utc): callable {
        $this->travelTo(new DateTimeImmutable($utc)); // checks are stamped with the time of the desk
        $this->app->make('db');

        return fn (): Instant => Instant::of(now());
    };
    $near->refresh();
    $names = fn (array $checks): array => array_map(fn (Check $check): string => $check->set_name, $checks);
    $sets = BackupSet::query()->orderBy('instant')->pluck('name')->all();
    expect($plan->of($near, $at('2026-11-02T20:00:00Z')))
        ->toBe([])
        ->and($names($plan->of($near, $at('2026-11-02T22:30:00Z'))))
        ->toBe([$sets[0], $sets[1]])
        ->and($plan->of($near, $at('2026-11-03T01:00:00Z')))
        ->toBe([])
        ->and($names($plan->of($near, $at('2026-11-03T23:00:00Z'))))
        ->toContain($sets[2])
        ->and(Copy::query()->where('store_id', $near->id)->whereNull('checked_at')->count())
        ->toBe(0)
        ->and(Copy::query()->where('store_id', '<>', $near->id)->whereNotNull('checked_at')->count())
        ->toBe(0);
    // The hours end while a copy is read: it is left, and comes first the next night.
    $calls = 0;
    $this->travelTo(new DateTimeImmutable('2026-11-05T22:30:00Z'));
    $checks = $plan->of($near, function () use (&$calls): Instant {
        return Instant::parse(++$calls <= 3 ? '2026-11-05T22:30:00Z' : '2026-11-06T05:00:00Z');
    });
    expect(count($checks))->toBeLessThanOrEqual(1);
    expect($this->kaiseki('check-plan', 'near', '--mb=5', '--zone=Mars/Olympus')->code)
        ->toBe(2)
        ->and($this->kaiseki('check-plan', 'near', '--mb=5', '--from=25:00')->code)
        ->toBe(2)
        ->and($workload->sets()->count())
        ->toBe(3);
});
