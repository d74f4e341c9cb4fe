<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Places\DoubtfulContent;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

/* Signs of damage, and doubt that travels with the content: nights of an office, one of which was not what it seemed. */

/** The life of an office in a tree of archives: busy nights with everything that is ordinary, and looks odd. */
final class OfficeNights
{
    private readonly Randomizer $random;

    private int $made = 0;

    public function __construct(public readonly Archives $archives, int $seed)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        for ($i = 0; $i < 90; $i++) {
            $this->archives->put($this->newName(), $this->text());
        }
        for ($i = 0; $i < 8; $i++) {
            $this->archives->put("pictures/p$i.jpg", "\xff\xd8\xff\xe0".$this->random->getBytes(3000));
        }
    }

    public function ordinary(): void
    {
        foreach ($this->some($this->random->getInt(2, 25)) as $path) {
            $this->archives->put($path, $this->text()); // revised
        }
        for ($i = $this->random->getInt(0, 6); $i > 0; $i--) {
            $this->archives->put($this->newName(), $this->text());
        }
        foreach ($this->some($this->random->getInt(0, 3)) as $path) {
            $this->archives->delete($path);
        }
        match ($this->random->getInt(0, 5)) {
            // Pictures and compressed files come; one log is compressed; one file is enciphered by its owner; a folder is renamed.
            0 => $this->archives->put('pictures/n'.$this->made++.'.png', "\x89PNG\r\n\x1a\n".$this->random->getBytes(4000)),
            1 => $this->compressOne(),
            2 => $this->archives->put('keys/secret'.$this->made++.'.bin', $this->random->getBytes(2000)),
            3 => $this->encipherOne(),
            default => null,
        };
    }

    /** @return array<string, string> path => content, of what was scrambled */
    public function scramble(string $how): array
    {
        $bad = [];
        foreach ($this->some($how === 'all' ? 1000 : $this->random->getInt(6, 40)) as $path) {
            $noise = $this->random->getBytes(max(700, (int) filesize("{$this->archives->source}/$path")));
            $to = $how === 'renamed' ? "$path.zzx" : $path;
            if ($how === 'renamed') {
                $this->archives->delete($path);
            }
            $this->archives->put($to, $noise);
            $bad["tree/$to"] = $noise;
        }

        return $bad;
    }

    /** @return array<string, string> */
    public function now(): array
    {
        $files = [];
        foreach (
            new RecursiveIteratorIterator(new RecursiveDirectoryIterator($this->archives->source, FilesystemIterator::SKIP_DOTS)) as $file
        ) {
            $files['tree/'.substr($file->getPathname(), strlen($this->archives->source) + 1)] = (string) file_get_contents(
                $file->getPathname(),
            );
        }

        return $files;
    }

    private function compressOne(): void
    {
        foreach ($this->some(1) as $path) {
            $this->archives
                ->put("$path.gz", (string) gzencode((string) file_get_contents("{$this->archives->source}/$path")))
                ->delete($path);
        }
    }

    private function encipherOne(): void
    {
        foreach ($this->some(1) as $path) {
            $this->archives->put("$path.sealed", $this->random->getBytes(1500))->delete($path);
        }
    }

    /** @return list<string> text files that are there */
    private function some(int $count): array
    {
        $all = array_values(
            array_filter(array_keys($this->now()), fn (string $path): bool => str_ends_with($path, '.txt') || str_ends_with($path, '.csv')),
        );
        sort($all);
        $picked = $this->random->shuffleArray($all);

        return array_map(fn (string $path): string => substr($path, 5), array_slice($picked, 0, $count));
    }

    private function newName(): string
    {
        return 'd'.$this->random->getInt(1, 6).'/f'.$this->made++.['.txt', '.csv'][$this->random->getInt(0, 1)];
    }

    private function text(): string
    {
        $words = ['ferry', 'noon', 'ramp', 'moorings', 'crew', 'fog', 'berth', 'late', 'signs for', 'deck', 'Gull Ness', 'Westwick'];
        $text = '';
        while (strlen($text) < 900) {
            $text .= $words[$this->random->getInt(0, 11)].' '.$this->random->getInt(0, 99).";\n";
        }

        return $text;
    }
}

it('finds a scrambled night among busy ones, carries its doubt along until the content is replaced, and raises no other', function (
    int $seed,
): void {
    $random = new Randomizer(new Mt19937($seed * 31));
    $office = new OfficeNights(new Archives($this->scratch()), $seed);
    $evil = $random->getInt(7, 11);
    $how = ['in place', 'renamed', 'all'][$seed % 3];
    $bad = [];
    $state = $sets = [];
    foreach (range(0, 14) as $night) {
        if ($night > 0) {
            $office->ordinary();
        }
        if ($night === $evil) {
            $bad = $office->scramble($how);
        } elseif ($night === 13) {
            foreach (array_slice(array_keys($bad), 0, intdiv(count($bad), 2)) as $path) {
                $office->archives->delete(substr($path, 5)); // half of it is cleared away
            }
        }
        $sets[$night] = $office->archives->dump(['full', 'incr', 'incr', 'diff'][$night % 4 === 0 ? ($night === 0 ? 0 : 3) : 1]);
        $state[$night] = $office->now();
    }
    expect($this->kaiseki('adopt', $office->archives->folder, '--as=tree')->code)->toBe(0);
    $points = new Points(Workload::query()->sole());
    $doubt = new DoubtfulContent($points);
    foreach ($sets as $night => $name) {
        $set = $points->set($name);
        assert($set !== null);
        // The oracle: whatever path holds one of the scrambled contents, byte by byte.
        $expected =
            $night < $evil ? [] : array_keys(array_filter($state[$night], fn (string $content): bool => in_array($content, $bad, true)));
        sort($expected);
        $found = array_map(strval(...), array_keys($doubt->at($set)));
        expect(array_diff($expected, $found))->toBe([], "missed at night $night of seed $seed ($how)");
        // Of what came that night its owner may have enciphered one or two files; nothing is in doubt before that night.
        expect(count(array_diff($found, $expected)))->toBeLessThanOrEqual(
            $night >= $evil ? 2 : 0,
            "false alarm at night $night of seed $seed",
        );
        expect($set->set->inDoubt)->toBe($expected !== [], "night $night of seed $seed");
    }
    $chosen = fn (string ...$more): array => $this->kaiseki('points', 'tree', '--at=2026-12-01T00:00:00Z', '--json', ...$more)->json();
    expect($chosen()['chosen']['set'] ?? $chosen()['chosen'])->toBe($sets[$evil - 1]);
})->with(range(1, 9));

it('counts no false alarm in two hundred ordinary nights', function (): void {
    $alarms = $nights = 0;
    foreach (range(101, 110) as $seed) {
        $scratch = new Tests\Support\Scratch;
        try {
            $office = new OfficeNights(new Archives($scratch), $seed);
            $office->archives->dump('full');
            foreach (range(1, 20) as $night) {
                $office->ordinary();
                $office->archives->dump($night % 7 === 0 ? 'diff' : 'incr');
            }
            expect($this->kaiseki('adopt', $office->archives->folder, "--as=tree-$seed")->code)->toBe(0);
            $nights += 20;
            $alarms += BackupSet::query()
                ->where(
                    'workload_id',
                    Workload::query()
                        ->where('name', "tree-$seed")
                        ->value('id'),
                )
                ->where('in_doubt', true)
                ->count();
        } finally {
            $scratch->remove();
        }
    }
    expect($nights)->toBe(200)->and($alarms)->toBe(0);
})->group('deep');

it('gives the newest clean version of everything, each file with the point it comes from', function (int $seed, string $how): void {
    $office = new OfficeNights(new Archives($this->scratch()), $seed);
    $state = $sets = [];
    $bad = [];
    foreach (range(0, 11) as $night) {
        if ($night === 8) {
            $bad = $office->scramble($how);
        } elseif ($night > 0) {
            $office->ordinary();
        }
        $sets[$night] = $office->archives->dump($night === 0 ? 'full' : 'incr');
        $state[$night] = $office->now();
    }
    $this->kaiseki('adopt', $office->archives->folder, '--as=tree');
    // The oracle: the newest state, each scrambled file as it was the night before, and what vanished that night, or was cleared away
    // after it, given back.
    $expected = array_filter($state[11], fn (string $content): bool => ! in_array($content, $bad, true));
    foreach ($state[7] as $path => $content) {
        if (! isset($expected[$path]) && (isset($state[11][$path]) || ($state[8][$path] ?? '') !== $content)) {
            $expected[$path] = $content;
        }
    }
    ksort($expected);
    $to = $this->scratch()->folder('back');
    $answer = $this->kaiseki('restore', 'tree', '--at=2026-12-01T00:00:00Z', '--across-points', '--path=/', "--to=$to", '--json');
    $files = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($to, FilesystemIterator::SKIP_DOTS)) as $file) {
        $files[substr($file->getPathname(), strlen($to) + 1)] = (string) file_get_contents($file->getPathname());
    }
    ksort($files);
    expect(array_keys($files))
        ->toBe(array_keys($expected))
        ->and($files === $expected)
        ->toBeTrue();
    foreach ($answer->json()['from_other_points'] as $row) {
        expect($state[array_search($row['point'], $sets, true)][$row['path']])->toBe($expected[$row['path']]);
    }
    $this->kaiseki('proof', (string) $answer->json()['run'], '--out='.($proof = $this->scratch()->path.'/proof.json'));
    expect($this->kaiseki('check-proof', $proof)->code)->toBe(0)->and(file_get_contents($proof))->toContain('from_other_points');
})->with([[1, 'in place'], [2, 'renamed'], [3, 'in place'], [4, 'renamed']]);

it('salvages the best tree that damaged chains still hold', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch());
    $state = $sets = [];
    foreach (range(0, 7) as $day) {
        foreach (range(1, 6) as $_) {
            $path = 'd'.$random->getInt(1, 3).'/f'.$random->getInt(1, 4);
            $day > 0 && $random->getInt(0, 5) === 0
                ? $archives->delete($path)
                : $archives->put($path, "day $day ".$random->getInt(0, 99));
        }
        $sets[$day] = $archives->dump($day === 0 ? 'full' : ['diff', 'incr', 'incr'][$random->getInt(0, 2)]);
        $state[$day] = [];
        foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($archives->source, FilesystemIterator::SKIP_DOTS)) as $file) {
            $state[$day]['tree/'.substr($file->getPathname(), strlen($archives->source) + 1)] = (string) file_get_contents(
                $file->getPathname(),
            );
        }
    }
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $held = [];
    foreach ($sets as $set) {
        if ($random->getInt(0, 2) === 0) {
            unlink($archives->file($set));

            continue;
        }
        $folder = $archives->scratch->folder("x-$set");
        $archives->scratch->run('tar', '-xzf', $archives->file($set), '-C', $folder);
        foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS)) as $file) {
            $held[(string) file_get_contents($file->getPathname())] = true;
        }
    }
    $expected = $lost = [];
    foreach ($state[7] as $path => $content) {
        for ($day = 7; $day >= 0 && ! isset($expected[$path]); $day--) {
            if (isset($state[$day][$path], $held[$state[$day][$path]])) {
                $expected[$path] = $state[$day][$path];
            }
        }
        if (! isset($expected[$path])) {
            $lost[] = "/$path";
        }
    }
    $to = $this->scratch()->folder('back');
    $list = $this->kaiseki('salvage', 'tree', '--at=2026-12-01T00:00:00Z', '--json');
    expect(
        array_values(
            array_map(
                fn (array $row): string => $row['path'],
                array_filter($list->json()['files'], fn (array $row): bool => $row['state'] === 'lost'),
            ),
        ),
    )
        ->toEqualCanonicalizing($lost)
        ->and($list->code)
        ->toBe($lost === [] ? 0 : 4);
    $this->kaiseki('restore', 'tree', '--at=2026-12-01T00:00:00Z', '--across-points', '--demand=none', '--path=/', "--to=$to");
    $files = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($to, FilesystemIterator::SKIP_DOTS)) as $file) {
        $files[substr($file->getPathname(), strlen($to) + 1)] = (string) file_get_contents($file->getPathname());
    }
    ksort($files);
    ksort($expected);
    expect($files)->toBe($expected);
})->with(range(1, 10));

it('takes the word of a person over the signs, either way, and keeps the reason', function (): void {
    $office = new OfficeNights(new Archives($this->scratch()), 5);
    $sets = [];
    foreach (range(0, 10) as $night) {
        $night === 8 ? $office->scramble('in place') : $office->ordinary();
        $sets[] = $office->archives->dump($night === 0 ? 'full' : 'incr');
    }
    $this->kaiseki('adopt', $office->archives->folder, '--as=tree');
    $inDoubt = fn (): array => BackupSet::query()->where('in_doubt', true)->orderBy('instant')->pluck('name')->all();
    expect($inDoubt())
        ->toBe([$sets[8], $sets[9], $sets[10]])
        ->and($this->kaiseki('judge', 'tree', $sets[8], 'good')->code)
        ->toBe(2)
        ->and($this->kaiseki('judge', 'tree', $sets[8], 'fine', '--reason=x')->code)
        ->toBe(2);
    $this->kaiseki('judge', 'tree', $sets[8], 'good', '--reason=The accounts office enciphered its archive on purpose.');
    expect($inDoubt())->toBe([]);
    $this->kaiseki('judge', 'tree', $sets[3], 'doubt', '--reason=Somebody was at the terminal that night.');
    expect($inDoubt()[0])
        ->toBe($sets[3])
        ->and(BackupSet::query()->where('name', $sets[3])->value('doubtful'))
        ->toBeGreaterThan(0);
    $this->kaiseki('judge', 'tree', $sets[3], 'none', '--reason=It was the cleaner.');
    $this->kaiseki('judge', 'tree', $sets[8], 'none', '--reason=They did not.');
    expect($inDoubt())->toBe([$sets[8], $sets[9], $sets[10]]);
    $signs = $this->kaiseki('signs', 'tree', "--set={$sets[8]}", '--json')->json()['sets'][0];
    expect($signs['verdict']['reason'])
        ->toBe('They did not.')
        ->and($signs['signs'][0])
        ->toMatchArray(['kind' => 'scrambled', 'doubts' => true]);
});

it('judges a selection by what of it is in doubt', function (): void {
    $office = new OfficeNights(new Archives($this->scratch()), 6);
    $office->archives->put('apart/quiet.txt', 'never touched');
    $sets = [];
    $bad = [];
    foreach (range(0, 9) as $night) {
        if ($night === 8) {
            $bad = $office->scramble('in place');
        }
        $sets[] = $office->archives->dump($night === 0 ? 'full' : 'incr');
    }
    $this->kaiseki('adopt', $office->archives->folder, '--as=tree');
    $point = fn (string $path): string => $this->kaiseki(
        'restore',
        'tree',
        '--at=2026-12-01T00:00:00Z',
        "--path=$path",
        '--to='.$this->scratch()->folder('back'),
        '--dry-run',
        '--json',
    )->json()['point'];
    expect($point('/'))
        ->toBe($sets[7])
        ->and($point('/'.array_key_first($bad)))
        ->toBe($sets[7])
        ->and($point('/tree/pictures'))
        ->toBe($sets[9]);
});

it('looks for contents on a list of harmful ones in what is cataloged already, and in what comes', function (): void {
    $archives = (new Archives($this->scratch()))->put('a.txt', 'one');
    $sets = [];
    foreach (range(0, 9) as $night) {
        $archives->put("n$night", "night $night");
        if ($night === 7) {
            $archives->put('invoice.exe', 'a harmful thing, long enough to be told from others by its digest alone');
        }
        $sets[] = $archives->dump($night === 0 ? 'full' : 'incr');
    }
    $late = $archives->file($sets[9]);
    rename($late, "$late.away");
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $list = $this->scratch()->path.'/bad.txt';
    file_put_contents(
        $list,
        $this->scratch()->run('b2sum', '--length=256', "{$archives->source}/invoice.exe").str_repeat('0', 64)."\n",
    );
    expect($this->kaiseki('bad-contents', $list, '--json')->json())
        ->toBe(['taken' => 2, 'found' => [$sets[7]]])
        ->and(BackupSet::query()->where('in_doubt', true)->orderBy('instant')->pluck('name')->all())
        ->toBe([$sets[7], $sets[8]]);
    rename("$late.away", $late);
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(BackupSet::query()->where('name', $sets[9])->value('in_doubt'))->toBe(true);
    $archives->put('copy.exe', 'a harmful thing, long enough to be told from others by its digest alone')->delete('invoice.exe');
    $moved = $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    expect(BackupSet::query()->where('name', $moved)->value('in_doubt'))->toBe(true);
    file_put_contents($list, "not a digest\n");
    expect($this->kaiseki('bad-contents', $list)->code)->toBe(2);
});
