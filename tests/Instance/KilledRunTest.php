<?php

declare(strict_types=1);

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Instance;
use Tests\Support\Scratch;
use Tests\Support\TreeListing;

// The process that carries a run out is ended with SIGKILL at seeded moments: before, while and after things are staged
// and put in place.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    // The application would go on with the killed runs by itself within a minute; here they are looked at first.
    Instance::control('stop', 'scheduler', 'workers:*');
});

afterEach(function (): void {
    Instance::control('start', 'scheduler', 'workers:*');
    $this->scratch->remove();
});

/** Contents of all files that are not in the staging folder or the set-aside, by path. */
function contents(string $root): array
{
    $found = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($root, FilesystemIterator::SKIP_DOTS)) as $file) {
        $path = substr($file->getPathname(), strlen($root) + 1);
        if (! str_starts_with($path, '.kaiseki-')) {
            $found[$path] = md5_file($file->getPathname());
        }
    }
    ksort($found);

    return $found;
}

it('loses nothing when it is killed in the middle, and can be gone on with or undone', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $name = "killed-$seed-".bin2hex(random_bytes(3));
    for ($i = 0; $i < 1500; $i++) {
        $this->scratch->file(sprintf('src/tree/d%02d/f%04d', $i % 30, $i), $random->getBytes($random->getInt(1, 4000)));
    }
    $archives = $this->scratch->folder('archives');
    $this->scratch->run('tar', '-czf', "$archives/t.full.20261001T020000Z.tar.gz", '-C', "{$this->scratch->path}/src", 'tree');
    expect(Instance::kaiseki('adopt', $archives, "--as=$name")->code)->toBe(0);
    $new = contents("{$this->scratch->path}/src");

    for ($round = 0; $round < 5; $round++) {
        // A target that holds other versions of a third of the files, and things of its own.
        $target = "{$this->scratch->path}/target-$round";
        foreach (array_keys($new) as $i => $path) {
            if ($i % 3 === 0) {
                $this->scratch->file("target-$round/$path", "old $path");
            }
        }
        $this->scratch->file("target-$round/tree/own", 'not part of it');
        $old = contents($target);
        $process = Instance::process(
            'restore',
            $name,
            '--at=2026-11-01T00:00:00Z',
            '--path=/',
            "--to=$target",
            '--conflict=replace',
            '--json',
        );
        $process->start();
        usleep($random->getInt(120_000, 420_000));
        if ($process->isRunning()) {
            $process->signal(SIGKILL);
        }
        $process->wait();
        $run = (int) Instance::database()
            ->query(
                "SELECT COALESCE(MAX(r.id), 0) FROM runs r JOIN workloads w ON w.id = r.workload_id WHERE w.name = '$name' AND r.state = ".
                    "'running'",
            )
            ->fetchColumn();

        // Whatever stands under a final name is one of the two versions, whole; what was there is there or set aside.
        foreach (contents($target) as $path => $digest) {
            expect($digest === ($new[$path] ?? '') || $digest === ($old[$path] ?? ''))->toBeTrue("$path is neither version");
        }
        $asides = glob("$target/.kaiseki-set-aside-*") ?: [];
        $aside = $asides === [] ? [] : contents($asides[0]);
        $now = contents($target);
        foreach ($old as $path => $digest) {
            expect(in_array($digest, [$now[$path] ?? '', $aside[$path] ?? ''], true))->toBeTrue("$path was lost");
        }
        if ($run === 0) {
            continue; // it was killed before it began, or had ended
        }
        $resumed = Instance::kaiseki('resume', (string) $run, "--root=$target", '--json');
        expect($resumed->code)->toBe(0, $resumed->text);
        expect(contents($target))->toBe([...$new, 'tree/own' => $old['tree/own']]);
        expect(glob("$target/.kaiseki-staging*") ?: [])->toBe([]);

        $back = Instance::kaiseki('put-back', (string) $run, "--root=$target", '--json');
        expect($back->code)->toBe(0, $back->text);
        expect(contents($target))->toBe($old);
    }
})->with(deeper([1, 2, 3]));

it('undoes a run that was killed and never gone on with', function (): void {
    $name = 'undone-'.bin2hex(random_bytes(3));
    for ($i = 0; $i < 3000; $i++) {
        $this->scratch->file(sprintf('src/tree/d%02d/f%04d', $i % 30, $i), "content $i");
    }
    $archives = $this->scratch->folder('archives');
    $this->scratch->run('tar', '-czf', "$archives/t.full.20261001T020000Z.tar.gz", '-C', "{$this->scratch->path}/src", 'tree');
    Instance::kaiseki('adopt', $archives, "--as=$name");
    foreach (range(0, 2999) as $i) {
        $this->scratch->file(sprintf('target/tree/d%02d/f%04d', $i % 30, $i), "old $i");
    }
    $before = TreeListing::of("{$this->scratch->path}/target");
    $process = Instance::process(
        'restore',
        $name,
        '--at=2026-11-01T00:00:00Z',
        '--path=/',
        "--to={$this->scratch->path}/target",
        '--conflict=replace',
    );
    $process->start();
    // The moment at which things are being replaced is waited for.
    expect(
        Instance::waitUntil(fn (): bool => (glob("{$this->scratch->path}/target/.kaiseki-set-aside-*/tree/*/*") ?: []) !== []),
    )->toBeTrue();
    $process->signal(SIGKILL);
    $process->wait();
    $run = (int) Instance::database()
        ->query("SELECT MAX(r.id) FROM runs r JOIN workloads w ON w.id = r.workload_id WHERE w.name = '$name'")
        ->fetchColumn();
    $answer = Instance::kaiseki('put-back', (string) $run, "--root={$this->scratch->path}/target", '--json');
    expect($answer->code)->toBe(0, $answer->text);
    $files = fn (array $listing): array => array_filter($listing, fn (string $about): bool => $about[0] === 'f');
    expect($files(TreeListing::of("{$this->scratch->path}/target")))->toBe($files($before));
});
