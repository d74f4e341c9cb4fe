<?php

declare(strict_types=1);

use App\Models\Workload;
use Tests\Support\RandomTree;
use Tests\Support\TreeListing;

/*
 * The sets that Kaiseki makes, read by ordinary tools: GNU tar with --listed-incremental=/dev/null (GNU tar manual,
 * "Using tar to Restore from an Incremental"), gzip --test (RFC 1952, members), b2sum --length=256 --check (RFC 7693).
 */

it('makes sets that GNU tar reads back to the same trees, and so does Kaiseki', function (int $seed): void {
    $scratch = $this->scratch();
    $tree = new RandomTree($scratch->path.'/source', $seed);
    $this->kaiseki('store-add', 'here', $scratch->folder('store'));
    $expected = $sets = [];
    foreach (range(0, 5) as $day) {
        if ($day > 0) {
            usleep(20_000);
            $tree->change(12);
        }
        sleep_until_next_second();
        $answer = $this->kaiseki(
            'protect',
            'own',
            "--source={$tree->root}",
            '--level='.['incr', 'incr', 'incr', 'diff', 'incr', '3'][$day],
            '--store=here',
            '--json',
        );
        expect($answer->code)->toBe(0, $answer->text);
        $sets[$day] = $answer->json()['set'];
        $expected[$day] = TreeListing::of($tree->root);
    }
    $chains = [[0], [0, 1], [0, 1, 2], [0, 3], [0, 3, 4], [0, 5]];
    foreach ($chains as $day => $chain) {
        $byTar = $scratch->folder("tar-$day");
        foreach ($chain as $piece) {
            $scratch->run('gzip', '--test', "{$scratch->path}/store/own/{$sets[$piece]}.tar.gz");
            $scratch->run(
                'tar',
                '-xzpf',
                "{$scratch->path}/store/own/{$sets[$piece]}.tar.gz",
                '--listed-incremental=/dev/null',
                '-C',
                $byTar,
            );
        }
        // Of a file with several names GNU tar links those that one set holds; a set that stores one anew parts them.
        $linkless = fn (array $listing): array => array_map(
            fn (string $about): string => (string) preg_replace('/ linked: \w+$/', '', $about),
            $listing,
        );
        expect($linkless(TreeListing::of($byTar)))->toBe($linkless($expected[$day]), "GNU tar, day $day");
        $scratch->run(
            'sh',
            '-c',
            "cd '$byTar' && b2sum --length=256 --check --strict --quiet '{$scratch->path}/store/own/{$sets[$day]}.b2sum'",
        );

        $byUs = "{$scratch->path}/us-$day";
        expect($this->kaiseki('restore', 'own', "--point={$sets[$day]}", '--path=/', "--to=$byUs", '--json')->code)->toBe(0);
        expect($linkless(TreeListing::of($byUs)))->toBe($linkless($expected[$day]), "Kaiseki, day $day");
    }
    // The first was asked to be an increment and became a full, and says so.
    $record = json_decode((string) file_get_contents("{$scratch->path}/store/own/{$sets[0]}.set.json"), true);
    expect($record['level'])
        ->toBe('full')
        ->and($record['asked_level'])
        ->toBe('incr')
        ->and($record['remarks'][0])
        ->toContain('it became a full');
    expect($record['blake2b_256'])->toBe(
        substr($scratch->run('b2sum', '--length=256', "{$scratch->path}/store/own/{$sets[0]}.tar.gz"), 0, 64),
    );
})->with(deeper([21, 22, 23]));

function sleep_until_next_second(): void
{
    usleep(1_000_000 - (int) (fmod(microtime(true), 1) * 1_000_000) + 1000);
}

it('lists every entry of the tree in the manifest, and where its bytes are', function (): void {
    $scratch = $this->scratch();
    $scratch->file('source/a', 'alpha');
    $scratch->file("source/\xff", 'bytes');
    $this->kaiseki('store-add', 'here', $scratch->folder('store'));
    $full = $this->kaiseki('protect', 'own', "--source={$scratch->path}/source", '--level=full', '--store=here', '--json')->json()['set'];
    sleep_until_next_second();
    $scratch->file('source/b', 'beta');
    $incr = $this->kaiseki('protect', 'own', '--level=incr', '--store=here', '--json')->json()['set'];
    $lines = fn (string $set): array => array_map(
        fn (string $line): array => json_decode($line, true),
        file("{$scratch->path}/store/own/$set.manifest.jsonl"),
    );
    expect(array_column($lines($full), 'in', 'path'))->toBe(['./a' => 'here', './%FF' => 'here']);
    expect(array_column($lines($incr), 'in', 'path'))->toBe(['./a' => 'base', './b' => 'here', './%FF' => 'base']);
    $digest = array_column($lines($incr), 'blake2b_256', 'path')['./b'];
    expect($digest)->toBe(substr($scratch->run('b2sum', '--length=256', "{$scratch->path}/source/b"), 0, 64));
});

it('stores a file anew whose content changed while its size and time did not', function (): void {
    $scratch = $this->scratch();
    $file = $scratch->file('source/ledger', 'aaaa');
    touch($file, 1_700_000_000);
    $this->kaiseki('store-add', 'here', $scratch->folder('store'));
    $this->kaiseki('protect', 'own', "--source={$scratch->path}/source", '--level=full', '--store=here');
    sleep_until_next_second();
    file_put_contents($file, 'bbbb');
    touch($file, 1_700_000_000);
    $incr = $this->kaiseki('protect', 'own', '--level=incr', '--store=here', '--json')->json()['set'];
    expect($this->kaiseki('restore', 'own', "--point=$incr", '--path=/ledger', "--to={$scratch->path}/out")->code)->toBe(0);
    expect(file_get_contents("{$scratch->path}/out/ledger"))->toBe('bbbb');
});

it('leaves no half set when the store is full', function (): void {
    $scratch = $this->scratch();
    $scratch->file('source/big', random_bytes(900_000));
    $mount = $scratch->folder('small');
    $scratch->run('mount', '-t', 'tmpfs', '-o', 'size=500k', 'none', $mount);
    try {
        $this->kaiseki('store-add', 'small', $mount);
        $answer = $this->kaiseki('protect', 'own', "--source={$scratch->path}/source", '--level=full', '--store=small', '--json');
        expect($answer->code)->not->toBe(0)->and($answer->json()['error'])->toContain('is the disk full?');
        expect(array_diff(scandir("$mount/own") ?: [], ['.', '..']))->toBe([]);
        expect(Workload::query()->sole()->sets()->count())->toBe(0);
    } finally {
        $scratch->run('umount', $mount);
    }
});

it('reads the archives of GNU tar in every format it writes', function (string $format, array $flags): void {
    $scratch = $this->scratch();
    $tree = $scratch->folder('src/tree');
    file_put_contents("$tree/plain", 'content');
    mkdir("$tree/".str_repeat('deep', 11));
    file_put_contents("$tree/".str_repeat('deep', 11).'/'.str_repeat('n', 40), 'in a deep folder');
    if ($format !== 'v7') {
        $long = str_repeat('long name ', 9);
        file_put_contents("$tree/$long", 'long');
        symlink(str_repeat('t', 90), "$tree/symlink");
    }
    if (in_array($format, ['gnu', 'posix'], true)) {
        mkdir("$tree/".str_repeat('x', 200));
        file_put_contents("$tree/".str_repeat('x', 200).'/'.str_repeat('y', 200), 'very long');
        symlink(str_repeat('u/', 200).'end', "$tree/far");
    }
    link("$tree/plain", "$tree/second");
    $scratch->run('truncate', '--size=3000000', "$tree/sparse");
    file_put_contents("$tree/sparse", 'tail', FILE_APPEND);
    $archives = $scratch->folder('archives');
    $scratch->run('tar', '-cf', "$archives/t.full.20261001T020000Z.tar", "--format=$format", ...$flags, ...['-C', dirname($tree), 'tree']);
    expect($this->kaiseki('adopt', $archives, '--as=t', '--json')->json()['sets'][0]['remarks'])->toBe([]);
    expect($this->kaiseki('restore', 't', '--at=2026-11-01T00:00:00Z', '--path=/', "--to={$scratch->path}/out", '--json')->code)->toBe(0);
    expect(TreeListing::of("{$scratch->path}/out", $format === 'posix'))->toBe(TreeListing::of(dirname($tree), $format === 'posix'));
})->with([
    'v7' => ['v7', []],
    'oldgnu' => ['oldgnu', []],
    'gnu' => ['gnu', []],
    'gnu, sparse' => ['gnu', ['--sparse']],
    'ustar' => ['ustar', []],
    'posix' => ['posix', []],
    'posix, sparse 0.0' => ['posix', ['--sparse', '--sparse-version=0.0']],
    'posix, sparse 0.1' => ['posix', ['--sparse', '--sparse-version=0.1']],
    'posix, sparse 1.0' => ['posix', ['--sparse', '--sparse-version=1.0']],
]);
