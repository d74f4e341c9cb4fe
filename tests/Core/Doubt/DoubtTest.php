<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Doubt\ChangeMeasures;
use Kaiseki\Core\Doubt\ContentTexture;
use Kaiseki\Core\Doubt\SetFacts;
use Kaiseki\Core\Doubt\Sign;
use Kaiseki\Core\Doubt\SignReader;
use Kaiseki\Core\Doubt\TextureSample;
use Kaiseki\Core\Doubt\Usual;

function textureOf(string $content, int $step = 0): ContentTexture
{
    $sample = new TextureSample;
    foreach ($step === 0 ? [$content] : str_split($content, $step) as $part) {
        $sample->data($part);
    }

    return $sample->texture();
}

it('reckons entropy as in the examples of Shannon 1948', function (): void {
    // Section 9 of "A Mathematical Theory of Communication": letters with probabilities 1/2, 1/4, 1/8, 1/8 have 7/4 bits each.
    expect(TextureSample::entropy(str_repeat('AAAABBCD', 512)))
        ->toEqualWithDelta(1.75, 1e-9)
        ->and(TextureSample::entropy(str_repeat('a', 4000)))
        ->toBe(0.0)
        ->and(TextureSample::entropy(implode('', array_map(chr(...), range(0, 255)))))
        ->toEqualWithDelta(8.0, 1e-9)
        ->and(TextureSample::entropy(''))
        ->toBe(0.0);
});

it('tells text, random bytes and formats that are dense by nature from each other', function (): void {
    mt_srand(3);
    $text = str_repeat('The mate checks the life rafts before the noon sailing. ', 40);
    expect(textureOf($text)->entropy())
        ->toBeLessThan(5.0)
        ->and(textureOf(random_bytes(5000))->isHigh())
        ->toBeTrue()
        ->and(textureOf((string) gzencode(random_bytes(5000)))->isDense())
        ->toBeTrue()
        ->and(textureOf((string) gzencode(random_bytes(5000)))->isHigh())
        ->toBeFalse()
        ->and(textureOf('short')->isKnown())
        ->toBeFalse()
        ->and(textureOf(random_bytes(5000))->isScrambled(textureOf($text)))
        ->toBeTrue()
        ->and(textureOf(random_bytes(5000))->isScrambled(textureOf((string) gzencode($text.random_bytes(900)))))
        ->toBeTrue()
        ->and(textureOf(random_bytes(5000))->isScrambled(textureOf(random_bytes(5000))))
        ->toBeFalse()
        ->and(textureOf(random_bytes(5000))->isScrambled(textureOf('short')))
        ->toBeFalse()
        ->and(textureOf($text)->isScrambled(textureOf(random_bytes(5000))))
        ->toBeFalse();
});

it('samples the same whatever the pieces in which a content comes', function (int $size): void {
    $content = random_bytes($size).str_repeat('ferry', intdiv($size, 3));
    $whole = textureOf($content)->code;
    foreach ([1000, 4096, 65536, 70001] as $step) {
        expect(textureOf($content, $step)->code)->toBe($whole);
    }
    // A file scrambled only in its middle is still noticed where a good part of it is.
    $slices = '';
    for ($at = 0; $at < strlen($content) && strlen($slices) < 1 << 20; $at += 65536) {
        $slices .= substr($content, $at, 4096);
    }
    expect(TextureSample::entropy($slices))->toEqualWithDelta(ContentTexture::of($whole)->entropy() ?? -1, 1 / 25);
})->with([600, 5000, 80_000, 300_000]);

it('knows the harmless file that scanners are tested with', function (): void {
    $parts = ['X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR', '-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*'];
    foreach (['' => true, "\r\n" => true, ' and more' => false] as $tail => $is) {
        $sample = new TextureSample;
        $sample->data(implode('', $parts).$tail);
        expect($sample->isTestFile())->toBe($is);
    }
});

it('takes the median and the median deviation for what is usual', function (): void {
    // The worked example that textbooks give for the MAD: median 2, deviations 1 1 0 0 2 4 7, their median 1 (from memory).
    $usual = Usual::of([1, 1, 2, 2, 4, 6, 9]);
    expect($usual->median)->toBe(2.0)->and($usual->mad)->toBe(1.0)->and($usual->score(2 + 1.4826 * 6, 0.1))->toEqualWithDelta(6.0, 1e-9);
    expect(Usual::of([4, 8])->median)
        ->toBe(6.0)
        ->and(Usual::of([5, 5, 5])->score(6, 2.0))
        ->toBe(0.5);
});

/** @param  array<string, array{string, int}>  $files path => content and texture code */
function treeOf(array $files): Tree
{
    $tree = new Tree;
    foreach ($files as $path => [$content, $texture]) {
        $tree->put(
            $path,
            (new Version(
                EntryKind::File,
                strlen($content),
                1,
                sodium_crypto_generichash($content, '', 32),
                0644,
                0,
                0,
                '',
                '',
                texture: $texture,
            ))->pack(),
        );
    }

    return $tree;
}

it('counts what changed, was renamed, scrambled, emptied, or came with even bytes', function (): void {
    [$low, $high, $dense] = [ContentTexture::ofEntropy(4.2)->code, ContentTexture::ofEntropy(7.9)->code, ContentTexture::dense()->code];
    $before = treeOf([
        'a.csv' => ['one', $low],
        'b.csv' => ['two', $low],
        'd/c.txt' => ['three', $low],
        'd/e.txt' => ['four', $low],
        'f.jpg' => ['five', $dense],
        'g.csv' => ['six', $low],
        'log.1' => ['seven', $low],
        'h.txt' => ['eight', $low],
        'same' => ['nine', $low],
    ]);
    $now = treeOf([
        'a.csv' => ['ONE', $high],
        'b.csv.zzx' => ['TWO', $high],
        'd/c.txt' => ['THREE', $low],
        'd/e.txt' => ['', 0],
        'f.jpg' => ['FIVE', $high],
        'g.md' => ['six', $low],
        'log.1.gz' => ['SEVEN', $dense],
        'blob' => ['blob', $high],
        'h.doc' => ['EIGHT', $low],
        'same' => ['nine', $low],
    ]);
    $measures = ChangeMeasures::between($now, $before);
    expect($measures->figures())
        ->toMatchArray([
            'files' => 10,
            'files_before' => 9,
            'changed' => 4,
            'scrambled' => 2,
            'renamed' => 2,
            'newly_even' => 1,
            'emptied' => 1,
        ])
        ->and(array_keys($measures->scrambled))
        ->toBe(['a.csv', 'f.jpg'])
        ->and(array_keys($measures->renamed))
        ->toBe(['b.csv.zzx', 'h.doc'])
        ->and(array_keys($measures->emptied))
        ->toBe(['d/e.txt'])
        ->and($measures->newEndings)
        ->toBe(['.zzx', '.doc']);
});

/** @param  array<string, int|float>  $figures */
function nightWith(array $figures, int $weekday = 1): SetFacts
{
    return new SetFacts(
        'incr',
        $weekday,
        1_000_000,
        $figures + [
            'files' => 1000,
            'files_before' => 1000,
            'changed' => 10,
            'added' => 2,
            'scrambled' => 0,
            'renamed' => 0,
            'changed_share' => 0.01,
        ],
        60.0,
    );
}

/** @param  list<Sign>  $signs */
function doubting(array $signs): array
{
    return array_map(fn (Sign $sign): string => $sign->kind, array_values(array_filter($signs, fn (Sign $sign): bool => $sign->doubts)));
}

it('raises doubt only from the seventh set on, and tells the sign before that', function (): void {
    $bad = nightWith(['scrambled' => 40, 'changed' => 50]);
    foreach (range(0, 9) as $earlier) {
        $signs = (new SignReader($bad, array_fill(0, $earlier, nightWith([]))))->signs();
        expect($signs[0]->kind)
            ->toBe('scrambled')
            ->and(doubting($signs))
            ->toBe($earlier + 1 >= 7 ? ['scrambled'] : []);
    }
});

it('judges a weekday by its own kind', function (): void {
    $earlier = [];
    foreach (range(0, 41) as $day) {
        $earlier[] = nightWith(['changed' => $day % 7 === 6 ? 600 : 10, 'changed_share' => $day % 7 === 6 ? 0.6 : 0.01], ($day % 7) + 1);
    }
    $busy = ['changed' => 610, 'changed_share' => 0.61];
    expect(doubting((new SignReader(nightWith($busy, 7), $earlier))->signs()))
        ->toBe([])
        ->and(doubting((new SignReader(nightWith($busy, 3), $earlier))->signs()))
        ->toBe(['changed']);
});

it('tells what is unusual without doubting it', function (): void {
    $earlier = array_fill(0, 10, nightWith([]));
    expect(doubting((new SignReader(nightWith(['files' => 300]), $earlier))->signs()))->toBe(['fewer']);
    $kinds = fn (SetFacts $facts): array => array_map(fn (Sign $sign): string => $sign->kind, (new SignReader($facts, $earlier))->signs());
    expect($kinds(nightWith(['files' => 700])))
        ->toBe(['fewer'])
        ->and($kinds(nightWith(['files' => 2000])))
        ->toBe(['more'])
        ->and($kinds(new SetFacts('incr', 1, 90_000_000, nightWith([])->figures, 900.0)))
        ->toBe(['size', 'slow'])
        ->and($kinds(nightWith([])))
        ->toBe([]);
});
