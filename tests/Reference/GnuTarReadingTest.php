<?php

declare(strict_types=1);

use Tests\Support\RandomTree;
use Tests\Support\TreeListing;

// An increment names a file that stands under several names only where it stores it again, so which names are linked
// is compared at fulls only.
// The oracle is the tree itself: GNU tar dumps it with --listed-incremental, we give each point back, find(1) compares.

dataset('dumps', function (): iterable {
    foreach (['gnu', 'posix'] as $format) {
        foreach (deeper(range(1, 12), 4) as $seed) {
            yield "$format format, seed $seed" => [$format, $seed];
        }
    }
});

it('gives back each tree that GNU tar dumped', function (string $format, int $seed): void {
    $scratch = $this->scratch();
    $tree = new RandomTree($scratch->folder('src').'/tree', $seed);
    $archives = $scratch->folder('archives');
    $full = "{$scratch->path}/full.snar";
    $snapshot = "{$scratch->path}/now.snar";
    // Dumped by its name from above, or as . from within.
    $dumped = $seed % 4 === 1 ? ['-C', $tree->root, '.'] : ['-C', dirname($tree->root), 'tree'];
    $top = $seed % 4 === 1 ? $tree->root : dirname($tree->root);
    $expected = $incomplete = [];
    foreach (range(0, 7) as $day) {
        $level = match (true) {
            $day === 0 || $day === 6 => 'full',
            $day === 3 => 'diff',
            default => 'incr',
        };
        if ($day > 0) {
            usleep(20_000); // the clock of the file system must move on, or tar takes new for old
            $tree->change(12);
        }
        if ($level === 'full') {
            @unlink($snapshot);
        } elseif ($level === 'diff') {
            copy($full, $snapshot);
        }
        $suffix = $seed % 2 === 0 ? '.tar' : '.tar.gz';
        $flags = $seed % 3 === 0 ? ['--sparse'] : [];
        $stamp = sprintf('202610%02dT020000Z', $day + 1);
        $scratch->run(
            'tar',
            $suffix === '.tar' ? '-cf' : '-czf',
            "$archives/tree.$level.$stamp$suffix",
            "--format=$format",
            ...$flags,
            ...["--listed-incremental=$snapshot", ...$dumped],
        );
        if ($level === 'full') {
            copy($snapshot, $full);
        }
        // After moves in a circle GNU tar sometimes leaves a folder out altogether: that point must not pass for whole.
        $stored = count(
            array_filter(
                explode("\n", $scratch->run('tar', '-tf', "$archives/tree.$level.$stamp$suffix", '--quoting-style=escape')),
                fn (string $line): bool => str_ends_with($line, '/'),
            ),
        );
        $folders = substr_count($scratch->run('find', $tree->root, '-type', 'd', '-printf', 'd'), 'd');
        $incomplete["tree.$level.$stamp"] = $stored < $folders;
        $expected["tree.$level.$stamp"] = TreeListing::of($top, $format === 'posix', $level === 'full');
    }

    $adopted = $this->kaiseki('adopt', $archives, '--as=tree', '--kind=files', '--json');
    expect($adopted->code)->toBe(0, $adopted->text);
    expect(array_column($adopted->json()['sets'], 'set'))->toBe(array_keys($expected));
    $lost = false;
    foreach ($expected as $set => $listing) {
        $lost = str_contains($set, 'full') ? false : $lost || $incomplete[$set];
        if ($lost) {
            expect(
                $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to={$scratch->path}/out-$set", '--json')->code,
            )->not->toBe(0);

            continue;
        }
        $restored = $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to={$scratch->path}/out-$set", '--json');
        expect($restored->code)->toBe(0, "$set: ".$restored->text);
        expect(TreeListing::of("{$scratch->path}/out-$set", $format === 'posix', str_contains($set, 'full')))->toBe($listing, $set);
    }
})->with('dumps');
