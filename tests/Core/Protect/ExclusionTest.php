<?php

declare(strict_types=1);

use Kaiseki\Core\Catalog\ManifestLine;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Exclusion;
use Kaiseki\Core\Protect\Exclusions;
use Kaiseki\Core\Protect\SetRecord;
use Kaiseki\Core\Protect\SetWriter;
use Kaiseki\Core\Protect\SourceState;
use Symfony\Component\Process\Process;
use Tests\Support\RandomTree;
use Tests\Support\Scratch;

/*
 * What a set leaves out on purpose. GNU tar does the same of the same tree (its manual, "Excluding Some Files" and "Controlling Pattern-
 * Matching": --anchored and --no-wildcards-match-slash for paths, --no-anchored for names).
 */

beforeEach(fn () => $this->scratch = new Scratch);

afterEach(fn () => $this->scratch->remove());

/** @return list<string> what is in a set, but for the top */
function setOf(string $tree, string $to, Exclusions $excluded): array
{
    $at = Instant::parse('2026-11-12T02:10:00Z');
    $full = Level::of('full');
    (new SetWriter(FolderBelow::open($tree), $to, $excluded))->write(
        'x.full', null, SourceState::none(), '', fn (): SetRecord => new SetRecord('x.full', $full, $full, null, '1', $at, $at, []),
    );
    $paths = [];
    foreach (new SplFileObject("$to/x.full.manifest.jsonl") as $line) {
        $paths[] = $line === '' ? '' : ManifestLine::parse((string) $line)->path;
    }

    return array_values(array_filter($paths, fn (string $path): bool => $path !== ''));
}

it('leaves out what GNU tar leaves out, by path and by name', function (int $seed): void {
    mt_srand($seed);
    $tree = new RandomTree($this->scratch->at('tree'), $seed);
    $tree->change(60);
    $find = (new Process(['find', $tree->root, '-mindepth', '1', '-printf', '%P\0']))->mustRun();
    $there = array_filter(explode("\0", $find->getOutput()));
    $rules = $options = [];
    foreach (range(1, 6) as $number) {
        $path = $there[array_rand($there)];
        $plain = preg_match('~[\\\\\[*?\x00-\x1f\x7f]~', $path) !== 1 && mb_check_encoding($path, 'UTF-8');
        $some = fn (string $of): string => $of === '' ? '*x*' : mb_substr($of, 0, intdiv(mb_strlen($of), 2)).'*';
        $isName = $number % 2 === 0;
        $pattern = $isName ? $some($plain ? basename($path) : '') : '/'.($plain ? ($number % 3 === 0 ? $path : $some($path)) : 'a*');
        try {
            $rules[] = Exclusion::of($pattern, 'comes again');
        } catch (InvalidArgumentException) {
            continue; // "*" alone
        }
        array_push(
            $options,
            ...$isName ? ['--no-anchored'] : ['--anchored'],
            ...['--wildcards', '--no-wildcards-match-slash', '--exclude='.($isName ? $pattern : '.'.$pattern)],
        );
    }
    (new Process(['tar', '-C', $tree->root, '-cf', $this->scratch->at('theirs.tar'), ...$options, '.']))->mustRun();
    $list = 'import sys, tarfile; names = [m.name.encode("utf8", "surrogateescape") for m in tarfile.open(sys.argv[1])]; '.
        'sys.stdout.buffer.write(b"\0".join(names))';
    $listed = (new Process(['python3', '-c', $list, $this->scratch->at('theirs.tar')]))->mustRun()->getOutput();
    $theirs = array_map(fn (string $path): string => substr($path, 2), explode("\0", $listed));
    $theirs = array_values(array_filter($theirs, fn (string $path): bool => $path !== ''));
    $this->scratch->folder('sets');
    $ours = [];
    $excluded = new Exclusions($rules);
    foreach (setOf($tree->root, $this->scratch->at('sets'), $excluded) as $path) {
        $excluded->at($path) === null ? $ours[] = $path : expect($excluded->above($path))->not->toBeNull();
    }
    sort($ours);
    sort($theirs);
    expect($ours)->toBe($theirs)->and(count($ours))->toBeLessThan(count($there));
})->with(deeper(range(1, 40), 6));

it('takes no pattern that means nothing, or everything, and no rule without a reason', function (string $pattern, string $because): void {
    Exclusion::of($pattern, $because);
})->throws(InvalidArgumentException::class)->with([
    'nothing' => ['', 'x'], 'the top' => ['/', 'x'], 'all names' => ['*', 'x'], 'all paths' => ['/*', 'x'],
    'all, in other words' => ['?*', 'x'],
    'a path that is no path' => ['logs/old', 'x'], 'up' => ['/logs/../old', 'x'], 'an empty part' => ['/logs//old', 'x'],
    'two lines' => ["a\nb", 'x'], 'no text' => ["\xff", 'x'], 'too long' => [str_repeat('a', 501), 'x'],
    'no reason' => ['*.tmp', '  '], 'a long reason' => ['*.tmp', str_repeat('x', 201)],
]);

it('knows what is below something that is left out, and believes no record that says otherwise than rules do', function (): void {
    $all = new Exclusions([Exclusion::of('/logs/*/old/', 'kept elsewhere'), Exclusion::of('*.tmp', 'passing')]);
    expect($all->at('logs/pier/old')?->because)->toBe('kept elsewhere')
        ->and($all->at('logs/pier/old/1'))->toBeNull()
        ->and($all->above('logs/pier/old/1/2')?->pattern)->toBe('/logs/*/old')
        ->and($all->above('a/b.tmp/c')?->pattern)->toBe('*.tmp')
        ->and($all->above('logs/a/b/old'))->toBeNull()
        ->and($all->above(''))->toBeNull()
        ->and(Exclusions::ofRecord($all->toArray()))->toEqual($all)
        ->and(Exclusions::ofRecord('all')->all)->toBe([]);
    $wrong = ['sdb', ['pattern' => '*'], ['pattern' => '*', 'because' => 'all'], ['pattern' => 1, 'because' => 2]];
    expect(Exclusions::ofRecord($wrong)->all)->toBe([]);
});
