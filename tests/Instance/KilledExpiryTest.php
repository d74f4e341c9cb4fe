<?php

declare(strict_types=1);

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// The deleting of expired sets is ended with SIGKILL at seeded moments, and gone on with.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    Instance::control('stop', 'scheduler', 'workers:*');
});

afterEach(function (): void {
    Instance::control('start', 'scheduler', 'workers:*');
    $this->scratch->remove();
});

it('is gone on with after it was killed, and deletes exactly what its plan said', function (): void {
    $random = new Randomizer(new Mt19937(4));
    $name = 'expiring-'.bin2hex(random_bytes(3));
    $store = "$name-store";
    Instance::kaiseki('store-add', $store, $this->scratch->folder('store'));
    $source = $this->scratch->folder('host/files');
    for ($i = 0; $i < 400; $i++) {
        $this->scratch->file(sprintf('host/files/d%d/f%03d', $i % 9, $i), "before $i");
    }
    $sets = [];
    foreach (range(0, 11) as $day) {
        foreach (range(1, 40) as $_) {
            $this->scratch->file(
                sprintf('host/files/d%d/f%03d', $random->getInt(0, 8), $random->getInt(0, 400)),
                "day $day ".$random->getInt(0, 9999),
            );
        }
        (new Kaiseki\StandIns\FileHost($this->scratch->path.'/host'))->setClock(
            Kaiseki\Core\Instant::parse(sprintf('2026-10-%02dT02:00:00Z', $day + 1)),
        );
        $sets[] = Instance::kaiseki(
            'protect',
            $name,
            "--source=$source",
            "--store=$store",
            '--level='.($day % 3 === 0 ? 'full' : 'incr'),
            '--json',
        )->json()['set'];
    }
    Instance::kaiseki('keep', $name, 'last=2');
    $plan = Instance::kaiseki('expire', $name, '--json')->json();
    expect($plan['sets_gone'])->toHaveCount(9);
    $kills = 0;
    for ($round = 0; $round < 20; $round++) {
        $process = Instance::process('expire', $name, '--yes', '--json');
        $files = fn (): int => count(glob("{$this->scratch->path}/store/$name/*") ?: []);
        $wanted = $files() - $random->getInt(1, 5); // it is killed as soon as so many files are left
        $process->start();
        while ($process->isRunning() && $files() > $wanted) {
            usleep(300);
        }
        if ($process->isRunning()) {
            $process->signal(SIGKILL);
            $kills++;
        }
        $process->wait();
        // Whatever is left can be given back: no set stands without what it needs.
        foreach (Instance::kaiseki('points', $name, '--json')->json()['points'] as $point) {
            expect($point['usable'])->not->toBe(
                $point['set'] === $sets[11] || $point['set'] === $sets[10] || $point['set'] === $sets[9] ? 'no' : 'never',
                $point['set'],
            );
        }
        if ($process->getExitCode() === 0 && Instance::kaiseki('expire', $name, '--json')->json()['expiring'] === []) {
            break;
        }
    }
    expect($kills)->toBeGreaterThan(0)->and(Instance::kaiseki('expire', $name, '--yes')->code)->toBe(0);
    $left = array_map(fn (string $file): string => basename($file, '.tar.gz'), glob("{$this->scratch->path}/store/$name/*.tar.gz") ?: []);
    expect($left)
        ->toEqualCanonicalizing([$sets[9], $sets[10], $sets[11]])
        ->and(array_column(Instance::kaiseki('points', $name, '--json')->json()['points'], 'usable'))
        ->toBe(['whole', 'whole', 'whole'])
        ->and(glob("{$this->scratch->path}/store/$name/*"))
        ->toHaveCount(12);
    $to = $this->scratch->folder('back');
    expect(Instance::kaiseki('restore', $name, "--point={$sets[11]}", '--path=/', "--to=$to")->code)->toBe(0);
    $this->scratch->run('diff', '-r', $to, $source);
});
