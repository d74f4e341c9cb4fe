<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

/* The catalog against what the folders held: children, totals, names and spans, at every point of a random history. */

it('answers at every point as the folder itself would have', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch(), '.tar');
    $days = [];
    foreach (range(0, 8) as $day) {
        foreach (range(1, 10) as $_) {
            $path = 'd'.$random->getInt(1, 3).'/e'.$random->getInt(1, 2).'/f'.$random->getInt(1, 4);
            $random->getInt(0, 3) === 0 ? $archives->delete($path) : $archives->put($path, str_repeat('x', $random->getInt(0, 50)));
        }
        if ($random->getInt(0, 4) === 0) {
            $archives->delete('d'.$random->getInt(1, 3));
        }
        $set = $archives->dump($day === 0 ? 'full' : 'incr');
        $days[$set] = [];
        foreach (
            new RecursiveIteratorIterator(
                new RecursiveDirectoryIterator($archives->source, FilesystemIterator::SKIP_DOTS),
                RecursiveIteratorIterator::SELF_FIRST,
            ) as $file
        ) {
            $days[$set]['tree/'.substr($file->getPathname(), strlen($archives->source) + 1)] = $file->isDir() ? null : $file->getSize();
        }
    }
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $reader = new CatalogReader;
    foreach ($days as $name => $files) {
        $set = BackupSet::query()->where('name', $name)->sole();
        $folders = ['tree', ...array_keys(array_filter($files, fn (?int $size): bool => $size === null))];
        foreach ($folders as $folder) {
            $below = array_filter(
                $files,
                fn (?int $size, string $path): bool => $size !== null && str_starts_with($path, "$folder/"),
                ARRAY_FILTER_USE_BOTH,
            );
            expect($reader->total($set, $folder))->toBe([count($below), array_sum($below)], "$folder of $name");
            $children = array_filter(array_keys($files), fn (string $path): bool => dirname($path) === $folder);
            $got = array_map(fn ($child): string => $child->path, $reader->children($set, $folder));
            sort($children);
            sort($got);
            expect($got)->toBe($children, "$folder of $name");
            expect($reader->countChildren($set, $folder))->toBe(count($children));
        }
        $tree = [];
        foreach ($reader->entriesBelow($set, ['']) as $path => $packed) {
            $tree[] = $path;
        }
        sort($tree);
        $expected = ['tree', ...array_keys($files)];
        sort($expected);
        expect($tree)->toBe($expected, $name);
        expect([$set->tree_files, $set->tree_bytes])->toBe([
            count(array_filter($files, is_int(...))),
            array_sum(array_filter($files, is_int(...))),
        ]);
    }
    // The spans of each path, put together, are the points it was in.
    $instants = BackupSet::query()->orderBy('instant')->pluck('instant', 'name');
    $workload = Workload::query()->sole();
    $paths = array_unique(array_merge(...array_map(array_keys(...), array_values($days))));
    foreach ($paths as $path) {
        $spans = $reader->versionsOf($workload, $path);
        foreach ($days as $name => $files) {
            $in = array_filter($spans, fn ($span): bool => $span->first <= $instants[$name] && $span->until > $instants[$name]);
            expect(count($in))->toBe(array_key_exists($path, $files) ? 1 : 0, "$path at $name");
            if (isset($files[$path])) {
                expect(reset($in)->version->size)->toBe($files[$path]);
            }
        }
    }
    foreach (['f1', 'e*', 'F2', '?2'] as $pattern) {
        $glob = strpbrk($pattern, '*?') !== false;
        $expected = array_values(
            array_filter(
                $paths,
                fn (string $path): bool => $glob
                    ? fnmatch($pattern, basename($path))
                    : str_contains(strtolower(basename($path)), strtolower($pattern)),
            ),
        );
        $got = array_values(
            array_unique(
                array_map(
                    fn ($found): string => $found->path,
                    (new App\Trees\Catalog\CatalogSearch)->find($workload, new App\Trees\Catalog\SearchQuery(name: $pattern), 5000),
                ),
            ),
        );
        sort($expected);
        sort($got);
        expect($got)->toBe($expected, $pattern);
    }
})->with(range(31, 36));

it('keeps workloads apart that hold the same paths', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $set = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=first');
    $other = $this->scratch()->folder('other');
    copy($archives->file($set), "$other/$set.tar.gz");
    $this->kaiseki('adopt', $other, '--as=second');
    foreach (['first', 'second'] as $name) {
        expect($this->kaiseki('find', $name, 'a', '--json')->json()['versions'])->toHaveCount(1);
        expect($this->kaiseki('browse', $name, '--at=2026-11-01T00:00:00Z', '--path=/tree', '--json')->json()['entries'])->toHaveCount(1);
    }
});

it('tells two sets of the same second apart', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('a', 'two');
    $incr = $archives->dump('incr');
    rename($archives->file($incr), $archives->folder.'/tree.incr.20261001T020000Z.tar.gz');
    expect($this->kaiseki('adopt', $archives->folder, '--as=tree')->code)->toBe(0);
    foreach ([$full => 'one', 'tree.incr.20261001T020000Z' => 'two'] as $set => $content) {
        $this->kaiseki('restore', 'tree', "--point=$set", '--path=/tree/a', "--to={$this->scratch()->path}/out-$set");
        expect(file_get_contents("{$this->scratch()->path}/out-$set/tree/a"))->toBe($content);
    }
});
