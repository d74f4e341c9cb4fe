<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// Words are found by an index that sees committed rows only, so this asks the running application. The oracle is grep(1).

it('finds by words what grep finds, in each version once', function (): void {
    $scratch = new Scratch;
    try {
        $words = ['starboard', 'gangway', 'lantern', 'bilge', 'purser', 'ballast'];
        mt_srand(11);
        foreach (range(1, 120) as $i) {
            $scratch->file(
                "src/tree/d$i/note$i.txt",
                implode(' ', array_map(fn (): string => $words[mt_rand(0, 5)].mt_rand(1, 3), range(1, 3)))."\n",
            );
        }
        $scratch->file('src/tree/picture.png', "\x89PNG\r\n\x1a\n starboard1 ");
        $scratch->file('src/tree/odd.txt', "one+two \"three\" (four) -five ~six\n");
        $archives = $scratch->folder('archives');
        $scratch->run(
            'tar',
            '-czf',
            "$archives/t.full.20261001T020000Z.tar.gz",
            '--format=posix',
            "--listed-incremental={$scratch->path}/snar",
            '-C',
            "{$scratch->path}/src",
            'tree',
        );
        $name = 'words-'.bin2hex(random_bytes(3));
        expect(Instance::kaiseki('adopt', $archives, "--as=$name")->code)->toBe(0);
        $found = function (string ...$query) use ($name): array {
            $answer = Instance::kaiseki('find', $name, ...$query, ...['--json']);
            expect($answer->code)->toBe(0, $answer->text);
            $paths = array_column($answer->json()['versions'], 'path');
            sort($paths);

            return $paths;
        };
        $grep = function (string $pattern) use ($scratch): array {
            $process = new Process(['grep', '-rlE', '--include=*.txt', $pattern, 'tree'], "{$scratch->path}/src");
            $process->run();
            $paths = array_map(fn (string $path): string => "/$path", array_filter(explode("\n", $process->getOutput())));
            sort($paths);

            return $paths;
        };
        foreach (['lantern1', 'bilge3', 'gangway2'] as $word) {
            expect($found("--text=$word"))->toBe($grep("\\b$word\\b"), $word);
        }
        expect($found('--text=lan'))->toBe($grep('\\blan'))->and($found('--text=STARBOARD2'))->toBe($grep('starboard2'));
        expect($found('--text=purser1 ballast2'))->toBe(array_values(array_intersect($grep('purser1'), $grep('ballast2'))));
        expect($found('--text="purser1 ballast2"'))->toBe($grep('purser1 ballast2'));
        expect($found('note1*.txt', '--text=lantern'))->toBe(
            array_values(array_filter($grep('lantern'), fn (string $path): bool => fnmatch('note1*.txt', basename($path)))),
        );
        // What a server might take for operators is text.
        foreach (['+one -two', '"three" (', '~six* >', 'one+two'] as $odd) {
            expect(Instance::kaiseki('find', $name, "--text=$odd", '--json')->code)->toBe(0, $odd);
        }
        expect($found('--text=one+two'))->toBe(['/tree/odd.txt']);
    } finally {
        $scratch->remove();
    }
});
