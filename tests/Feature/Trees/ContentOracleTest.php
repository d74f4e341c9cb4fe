<?php

declare(strict_types=1);

use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

/*
 * The rule by content against a slow, obvious oracle: GNU tar makes random chains, some archives are removed or cut, and for
 * each point each file is looked for, by what it held on the day, in every archive that is left (by extracting those with tar).
 */

it('gives back exactly the contents that some archive still holds', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch());
    $names = array_map(fn (int $n): string => "d$n/f$n", range(1, 8));
    $held = [];
    foreach (range(0, 6) as $day) {
        foreach ($names as $name) {
            match ($random->getInt(0, 5)) {
                0 => $archives->delete($name),
                1, 2 => $archives->put($name, "version of day $day ".$random->getInt(0, 2)),
                default => null,
            };
        }
        $archives->put('always', 'there');
        $set = $archives->dump($day === 0 || $random->getInt(0, 5) === 0 ? 'full' : ($random->getInt(0, 3) === 0 ? 'diff' : 'incr'));
        $held[$set] = [];
        foreach ([...$names, 'always'] as $name) {
            if (is_file("{$archives->source}/$name")) {
                $held[$set]["tree/$name"] = file_get_contents("{$archives->source}/$name");
            }
        }
    }
    expect($this->kaiseki('adopt', $archives->folder, '--as=tree')->code)->toBe(0);
    foreach (array_keys($held) as $i => $set) {
        if ($random->getInt(0, 2) === 0) {
            $random->getInt(0, 1) === 0 ? unlink($archives->file($set)) : $archives->cut($set, 30);
        }
    }

    // All contents that the archives that are left hold, by extracting each with tar.
    $left = [];
    foreach (array_keys($held) as $set) {
        $folder = $this->scratch()->folder("x-$set");
        if (is_file($archives->file($set)) && filesize($archives->file($set)) > 30) {
            $this->scratch()->run('tar', '-xzf', $archives->file($set), '-C', $folder);
            foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS)) as $file) {
                $left[(string) file_get_contents($file->getPathname())] = true;
            }
        }
    }
    $points = array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'usable', 'set');
    foreach ($held as $set => $files) {
        $givable = array_filter($files, fn (string $content): bool => isset($left[$content]));
        $expected = count($givable) === count($files) ? 'whole' : (count($givable) > 0 ? 'part' : 'no');
        expect($points[$set])->toBe($expected, "$set, seed $seed");
        $out = "{$this->scratch()->path}/out-$set";
        $answer = $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to=$out", '--json');
        expect($answer->code)->toBe(['whole' => 0, 'part' => 4, 'no' => 3][$expected], $answer->text);
        foreach ($files as $path => $content) {
            expect(@file_get_contents("$out/$path"))->toBe(isset($givable[$path]) ? $content : false, "$path of $set");
        }
        // Each file alone is judged by itself.
        foreach ($files as $path => $content) {
            $moment = preg_replace('/^.*\.(\d{4})(\d\d)(\d\d)T.*$/', '$1-$2-$3T03:00:00Z', $set);
            $chosen = $this->kaiseki('plan', 'tree', "--at=$moment", "--path=/$path", '--json')->json()['point'] ?? null;
            expect($chosen === $set)->toBe(isset($givable[$path]), "$path alone at $set");
        }
    }
})->with(range(1, 10));
