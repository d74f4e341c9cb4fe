<?php

declare(strict_types=1);

use App\Kinds\Files\Order\OrderPreview;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Trees\Run\PlannedOrder;
use App\Trees\Run\RestorePlan;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\Preview;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Archives;
use Tests\Support\RandomTree;
use Tests\Support\TreeListing;

// The oracle of a preview is what the run then does: the target is listed by find(1) before and after.

/** @return array<string, string> without what a run keeps aside */
function ownThings(string $root): array
{
    return array_filter(TreeListing::of($root), fn (string $path): bool => ! str_starts_with($path, '.kaiseki-'), ARRAY_FILTER_USE_KEY);
}

/** @return array<string, string> without folders, of which the times change as things come into them */
function things(array $listing): array
{
    return array_filter($listing, fn (string $about): bool => $about[0] !== 'd');
}

it('says beforehand what the run then does, and all of it can be put back', function (string $rule, int $seed): void {
    $tree = new RandomTree($this->scratch()->folder('src').'/tree', $seed);
    $archives = $this->scratch()->folder('archives');
    $this->scratch()->run(
        'tar',
        '-czf',
        "$archives/tree.full.20261001T020000Z.tar.gz",
        '--format=posix',
        "--listed-incremental={$this->scratch()->path}/snar",
        '-C',
        dirname($tree->root),
        'tree',
    );
    $target = $this->scratch()->folder('target');
    $this->scratch()->run('cp', '-a', $tree->root, "$target/tree");
    // The target goes its own way: some of it as it was, some changed, some gone, some new.
    $random = new Randomizer(new Mt19937($seed));
    foreach (array_keys(things(TreeListing::of($target))) as $path) {
        match ($random->getInt(0, 5)) {
            0 => unlink("$target/$path"),
            1 => is_link("$target/$path") ? null : file_put_contents("$target/$path", 'changed', FILE_APPEND),
            2 => touch("$target/".dirname($path).'/own'.$random->getInt(1, 99)),
            3 => is_link("$target/$path") || filesize("$target/$path") > 0 ? unlink("$target/$path") && mkdir("$target/$path") : null,
            default => null,
        };
    }
    clearstatcache(true);
    expect($this->kaiseki('adopt', $archives, '--as=tree')->code)->toBe(0);
    $before = TreeListing::of($target);
    $options = ['tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$target", "--conflict=$rule", '--json'];
    $preview = $this->kaiseki('preview', ...$options);
    expect($preview->code)->toBe(0, $preview->text)->and(TreeListing::of($target))->toBe($before);
    $said = [];
    foreach ($preview->json()['entries'] as $row) {
        $said[substr($row['encoded'] ?? false ? rawurldecode($row['path']) : $row['path'], 1)] = $row['deed'];
    }
    $restored = $this->kaiseki('restore', ...$options);
    expect($restored->code)->toBe(0, $restored->text);
    $after = ownThings($target);
    $source = TreeListing::of(dirname($tree->root));
    $plain = fn (string $about): string => (string) preg_replace('/ linked: .*/', '', $about);
    foreach (things($source) as $path => $about) {
        $deed = $said[$path] ?? 'missing from the preview';
        $now = isset($after[$path]) ? $plain($after[$path]) : null;
        $was = isset($before[$path]) ? $plain($before[$path]) : null;
        expect(
            match ($deed) {
                'added' => $was === null && $now === $plain($about),
                'replaced', 'present-renamed' => $was !== null && $now === $plain($about),
                'kept', 'skipped', 'beside' => $now === $was || $before[$path][0] === 'd',
                default => false,
            },
        )->toBeTrue("$path: said $deed; was ".json_encode($was).', is '.json_encode($now));
    }
    foreach (things($before) as $path => $about) {
        if (! isset($source[$path]) && ! in_array($path, array_map(strval(...), array_keys($said)), true)) {
            expect($after[$path] ?? null)->toBe($about, "$path was touched though the preview did not name it");
        }
        if (($said[$path] ?? '') === 'left-alone') {
            expect($after[$path] ?? null)->toBe($about);
        }
    }
    $back = $this->kaiseki('put-back', (string) $restored->json()['run'], '--json');
    expect($back->code)->toBe(0, $back->text);
    // Everything, with the times of the folders.
    expect(TreeListing::of($target))->toBe($before);
})->with(['beside', 'rename-present', 'missing-only', 'replace', 'replace-all'], [1, 2, 3]);

it('counts by deed, tells what is newer and what a program has open, and follows a rule by folder', function (): void {
    $archives = (new Archives($this->scratch()))
        ->put('a', 'from the archive')
        ->put('sub/b', 'b')
        ->put('sub/c', 'c')
        ->put('log', 'old lines');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $target = $this->scratch()->folder('target');
    $this->scratch()->file('target/tree/a', 'newer');
    $this->scratch()->file('target/tree/sub/b', 'other');
    $this->scratch()->file('target/tree/log', 'lines');
    touch("$target/tree/a", time() + 60);
    $writer = new Process(['sh', '-c', 'exec 3>>"$1"; echo ready; exec sleep 6000', 'sh', "$target/tree/log"], null, null, null, null);
    $writer->start();
    saysSoon($writer, 'ready');
    $preview = $this->kaiseki(
        'preview',
        'tree',
        '--at=2026-11-01T00:00:00Z',
        '--path=/',
        "--to=$target",
        '--conflict=replace',
        '--conflict-in=tree/sub=missing-only',
        '--json',
    )->json();
    $writer->stop(0);
    $rows = array_column($preview['entries'], null, 'path');
    expect($rows['/tree/a'])
        ->toMatchArray(['deed' => 'replaced', 'because' => 'another size'])
        ->and($rows['/tree/a']['present']['newer'])
        ->toBeTrue();
    expect($rows['/tree/sub/b'])
        ->toMatchArray(['deed' => 'skipped'])
        ->and($rows['/tree/sub/c']['deed'])
        ->toBe('added');
    expect($rows['/tree/log']['open_in'])->toContain('sleep (process ');
    expect($preview['counts']['replaced'])
        ->toBe(['entries' => 2, 'files' => 2, 'bytes' => 25])
        ->and($preview['bytes_set_aside'])
        ->toBe(10)
        ->and($preview['fits'])
        ->toBeTrue();
    expect(
        $this->kaiseki(
            'restore',
            'tree',
            '--at=2026-11-01T00:00:00Z',
            '--path=/',
            "--to=$target",
            '--conflict=replace',
            '--conflict-in=tree/sub=missing-only',
        )->code,
    )->toBe(0);
    expect(file_get_contents("$target/tree/a"))->toBe('from the archive')->and(file_get_contents("$target/tree/sub/b"))->toBe('other');
});

it('says that it does not fit on a volume that is too small', function (): void {
    $archives = (new Archives($this->scratch()))->put('big', random_bytes(3 << 20));
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $small = $this->scratch()->folder('small');
    $this->scratch()->run('mount', '-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', $small);
    try {
        $preview = $this->kaiseki('preview', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$small", '--json');
        expect($preview->code)
            ->toBe(3)
            ->and($preview->json()['fits'])
            ->toBeFalse()
            ->and($preview->json()['bytes_needed'])
            ->toBe(3 << 20);
    } finally {
        $this->scratch()->run('umount', $small);
    }
});

it('gives one thing another name, and leaves the rest of the path as it is', function (): void {
    $archives = (new Archives($this->scratch()))->put('sub/b', 'b')->put('sub/deep/c', 'c');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $out = "{$this->scratch()->path}/out";
    expect(
        $this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree/sub', "--to=$out", '--rename=sub of October')->code,
    )->toBe(0);
    expect(file_get_contents("$out/tree/sub of October/deep/c"))->toBe('c')->and(file_exists("$out/tree/sub"))->toBeFalse();
    foreach (['a/b', '..', ''] as $name) {
        expect(
            $this->kaiseki(
                'restore',
                'tree',
                '--at=2026-11-01T00:00:00Z',
                '--path=/tree/sub',
                "--to=$out",
                "--rename=$name",
                '--conflict=missing-only',
            )->code,
        )->toBe($name === '' ? 0 : 2);
    }
    expect($this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to=$out", '--rename=x')->code)->toBe(2);
});

it('runs commands before and after, keeps what they said, and tells what they changed', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'a')->put('b', 'b');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $out = $this->scratch()->folder('out');
    $restore = fn (string ...$more) => $this->kaiseki(
        'restore',
        'tree',
        '--at=2026-11-01T00:00:00Z',
        '--path=/',
        "--to=$out",
        '--json',
        ...$more,
    );
    $failed = $restore('--before=["sh", "-c", "echo it will not rest; exit 3"]');
    expect($failed->code)
        ->toBe(4)
        ->and($failed->json()['error'])
        ->toContain('ended with 3: it will not rest')
        ->and(scandir($out))
        ->toBe(['.', '..']);
    $hung = $restore('--before=["sleep", "30"]', '--limit=1');
    expect($hung->json()['error'])
        ->toContain('did not end by itself')
        ->and(scandir($out))
        ->toBe(['.', '..']);
    $done = $restore('--before=["touch", "was-here"]', '--after=["sh", "-c", "echo more >> tree/a; echo done"]');
    expect($done->code)->toBe(0, $done->text)->and(file_exists("$out/was-here"))->toBeTrue();
    expect($done->json()['differences'])->toBe([
        ['path' => 'tree/a', 'because' => 'its size is 6, not 1, since the command after it', 'loss' => false],
    ]);
    $proof = $this->kaiseki('proof', (string) $done->json()['run'], '--json')->json();
    expect(array_column($proof['evidence']['commands'], 'output'))
        ->toBe(['', 'done'])
        ->and($proof['evidence']['right'])
        ->toBeTrue();
});

it('tells the same whether it holds the order or reads it from the catalog meanwhile', function (int $seed): void {
    $tree = new RandomTree($this->scratch()->folder('src').'/tree', $seed);
    $archives = $this->scratch()->folder('archives');
    $this->scratch()->run('tar', '-czf', "$archives/tree.full.20261001T020000Z.tar.gz", '-C', dirname($tree->root), 'tree');
    $target = $this->scratch()->folder('target');
    $this->scratch()->run('cp', '-a', $tree->root, "$target/tree");
    $random = new Randomizer(new Mt19937($seed));
    $paths = array_keys(things(TreeListing::of($target)));
    foreach ($paths as $path) {
        match ($random->getInt(0, 3)) {
            0 => unlink("$target/$path"),
            1 => touch(dirname("$target/$path").'/own'.$random->getInt(1, 99)),
            default => null,
        };
    }
    clearstatcache(true);
    expect($this->kaiseki('adopt', $archives, '--as=tree')->code)->toBe(0);
    $point = BackupSet::query()->sole();
    $points = new Points($point->workload);
    foreach ([[''], ['tree'], [$paths[0], $paths[count($paths) - 1]], [dirname($paths[0])]] as $selected) {
        $plan = new RestorePlan($selected, $target, ConflictRule::Replace, '2026-11-12 0824', 'Put it back.');
        $held = new Preview(PlannedOrder::of($plan, $point, $points, 'x')->order, $plan->look());
        $read = PlannedOrder::preview($plan, $point, $points, PHP_INT_MAX);
        expect(iterator_to_array($read->lines(), false))
            ->toEqual(iterator_to_array($held->lines(), false))
            ->and([$read->fingerprint(), $read->counts(), $read->warnings()])
            ->toEqual([$held->fingerprint(), $held->counts(), $held->warnings()]);
    }
})->with(range(1, 6));

it('does not hold all of a large selection to tell what a run would do', function (): void {
    $source = $this->scratch()->folder('src/many');
    for ($i = 0; $i < 30_000; $i++) {
        $i % 1000 === 0 && mkdir(sprintf('%s/%02d', $source, intdiv($i, 1000)));
        touch(sprintf('%s/%02d/a file of a name that is not short %05d.txt', $source, intdiv($i, 1000), $i));
    }
    $archives = $this->scratch()->folder('archives');
    $this->scratch()->run('tar', '-czf', "$archives/many.full.20261001T020000Z.tar.gz", '-C', dirname($source), 'many');
    expect($this->kaiseki('adopt', $archives, '--as=many')->code)->toBe(0);
    $point = BackupSet::query()->sole();
    $points = new Points($point->workload);
    $plan = new RestorePlan([''], $this->scratch()->folder('target'), ConflictRule::Replace, '2026-11-12 0824', 'Put it back.');
    $peak = function (callable $work): int {
        gc_collect_cycles();
        memory_reset_peak_usage();
        $before = memory_get_usage();
        $work();

        return memory_get_peak_usage() - $before;
    };
    $shown = null;
    $read = $peak(function () use (&$shown, $plan, $point, $points): void {
        $shown = OrderPreview::of($plan, $point, $points, isFolded: true);
    });
    $held = $peak(fn () => PlannedOrder::of($plan, $point, $points, 'x'));
    expect($shown->counts['added']->entries)->toBe(30_031)->and($shown->lines)->toHaveCount(OrderPreview::LINES);
    expect($read)->toBeLessThan(intdiv($held, 2));
});
