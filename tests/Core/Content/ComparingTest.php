<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Content\OfficeText;
use Kaiseki\Core\Content\PlainText;
use Kaiseki\Core\Content\TableDifference;
use Kaiseki\Core\Content\TableRows;
use Kaiseki\Core\Content\TextDifference;
use Kaiseki\Core\Doubt\ContentTexture;
use Kaiseki\Core\Doubt\SuddenChange;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

it('finds as many lines added and gone as GNU diff, and its lines make the one text out of the other', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $scratch = new Scratch;
    try {
        $old = array_map(fn (): string => 'line '.$random->getInt(1, 12), range(1, $random->getInt(1, 120)));
        $new = $old;
        for ($i = $random->getInt(0, 20); $i > 0 && $new !== []; $i--) {
            $at = $random->getInt(0, count($new) - 1);
            match ($random->getInt(0, 2)) {
                0 => array_splice($new, $at, 1),
                1 => array_splice($new, $at, 0, ['new '.$random->getInt(1, 5)]),
                default => ($new[$at] = 'other '.$random->getInt(1, 5)),
            };
        }
        $new = $new === [] ? ['x'] : $new;
        $difference = TextDifference::between(implode("\n", $old)."\n", implode("\n", $new)."\n", 1_000_000);
        $diff = new Process([
            'diff',
            '--minimal',
            '--normal',
            $scratch->file('old', implode("\n", $old)."\n"),
            $scratch->file('new', implode("\n", $new)."\n"),
        ]);
        $diff->run();
        expect([$difference->added, $difference->removed])->toBe([
            preg_match_all('/^> /m', $diff->getOutput()),
            preg_match_all('/^< /m', $diff->getOutput()),
        ]);
        $right = array_values(array_filter($difference->lines, fn ($line): bool => $line->right !== null));
        $left = array_values(array_filter($difference->lines, fn ($line): bool => $line->left !== null));
        if ($old !== $new) {
            expect(array_map(fn ($line): string => $line->text, $right))
                ->toBe($new)
                ->and(array_map(fn ($line): string => $line->text, $left))
                ->toBe($old);
            expect(array_map(fn ($line): ?int => $line->right, $right))->toBe(range(1, count($new)));
        }
        // With little around it, each line keeps its own numbers.
        foreach (TextDifference::between(implode("\n", $old), implode("\n", $new), 1)->lines as $line) {
            expect($line->left === null || $old[$line->left - 1] === $line->text)
                ->toBeTrue()
                ->and($line->right === null || $new[$line->right - 1] === $line->text)
                ->toBeTrue();
        }
    } finally {
        $scratch->remove();
    }
})->with(range(1, 60));

it('bounds how much it compares, and says so', function (): void {
    $long = implode("\n", array_map(strval(...), range(1, 4000)));
    $other = implode("\n", array_map(fn (int $i): string => "x$i", range(1, 4000)));
    expect(TextDifference::between($long, $other)->isCut)
        ->toBeTrue()
        ->and(TextDifference::between($long, $long."\nmore")->isCut)
        ->toBeFalse();
    expect(TextDifference::between($long, $long."\nmore")->added)->toBe(1);
});

it('compares tables by cells, row by row where rows were replaced', function (): void {
    $old = [['name', 'fare'], ['A', '10'], ['B', '20'], ['C', '30'], ['D', '40']];
    $difference = TableDifference::between($old, [['name', 'fare'], ['A', '10'], ['B', '25'], ['C', '30'], ['E', '50', 'extra']]);
    expect(array_map(fn ($row): array => [$row->left, $row->right, $row->before], $difference->rows))
        ->toBe([[3, 3, [1 => '20']], [5, 5, [0 => 'D', 1 => '40', 2 => '']]])
        ->and($difference->cells)
        ->toBe(4);
    $difference = TableDifference::between($old, [['name', 'fare'], ['A', '10'], ['C', '30'], ['D', '40'], ['F', '60']]);
    expect(array_map(fn ($row): array => [$row->left, $row->right, $row->cells[0]], $difference->rows))->toBe([
        [3, null, 'B'],
        [null, 5, 'F'],
    ]);
    expect(TableDifference::between([], [['a']])->rows)->toHaveCount(1);
});

it('reads tables with each separator, as RFC 4180 has quotes', function (string $text, array $rows): void {
    expect(TableRows::of($text, 10))->toBe($rows);
})->with([
    // RFC 4180, section 2, points 5 to 7.
    ["\"aaa\",\"b \nbb\",\"ccc\"\nzzz,yyy,xxx\n", [['aaa', "b \nbb", 'ccc'], ['zzz', 'yyy', 'xxx']]],
    ["\"aaa\",\"b\"\"bb\",\"ccc\"\n", [['aaa', 'b"bb', 'ccc']]],
    ["a;b,c;d\n1;2,5;3\n", [['a', 'b,c', 'd'], ['1', '2,5', '3']]],
    ["a\tb\n", [['a', 'b']]],
]);

it('tells what a content is by its first bytes, and believes no name alone', function (string $bytes, string $name, Form $form): void {
    expect(Form::of($bytes, $name))->toBe($form);
})->with([
    ["\x89PNG\r\n\x1a\n....", 'x', Form::Picture],
    ["\xff\xd8\xff\xe0", 'x.txt', Form::Picture],
    ['%PDF-1.7', 'x', Form::Pdf],
    ["PK\x03\x04", 'a.docx', Form::Office],
    ["PK\x03\x04", 'a.zip', Form::Other],
    ['a,b', 'a.csv', Form::Table],
    ['<svg onload=x>', 'a.svg', Form::Text],
    ["MZ\0\0", 'picture.png', Form::Other],
    ["caf\xe9", 'a.txt', Form::Text],
    ["\xff\xfea\0b\0", 'a.txt', Form::Text],
]);

it('takes bytes for text in the encodings that occur', function (): void {
    expect(PlainText::of("caf\xe9\r\nx"))
        ->toBe("café\nx")
        ->and(PlainText::of("\xff\xfea\0\xe9\0"))
        ->toBe('aé')
        ->and(PlainText::of("\xef\xbb\xbfok"))
        ->toBe('ok')
        ->and(PlainText::of("cut at é\xc3"))
        ->toBe('cut at é');
});

it('takes the words out of office documents, and lets none of them do harm', function (): void {
    $scratch = new Scratch;
    try {
        $zip = function (array $members) use ($scratch): string {
            $path = "{$scratch->path}/".bin2hex(random_bytes(4)).'.zip';
            $archive = new ZipArchive;
            $archive->open($path, ZipArchive::CREATE);
            foreach ($members as $name => $content) {
                $archive->addFromString($name, $content);
            }
            $archive->close();

            return $path;
        };
        expect(
            OfficeText::of(
                $zip([
                    'word/document.xml' => '<w:document xmlns:w="w"><w:p><w:t>Dear '.
                        'purser</w:t></w:p><w:p><w:t>second</w:t></w:p></w:document>',
                ]),
                1000,
            ),
        )->toBe("Dear purser\nsecond\n");
        expect(OfficeText::of($zip(['xl/sharedStrings.xml' => '<sst><si><t>fare</t></si><si><t>sailing</t></si></sst>']), 1000))->toBe(
            "fare\nsailing\n",
        );
        $scratch->file('secret', 'not yours');
        foreach (
            [
                'an entity that reads a file' => [
                    'content.xml' => "<!DOCTYPE d [<!ENTITY x SYSTEM \"file://{$scratch->path}/secret\">]><d>&x;</d>",
                ],
                'entities that multiply' => [
                    'content.xml' => '<!DOCTYPE d [<!ENTITY a "'.
                        str_repeat('lol', 1000).
                        '"><!ENTITY b "'.
                        str_repeat('&a;', 1000).
                        '">]><d>&b;</d>',
                ],
                'a bomb' => ['content.xml' => '<d>'.str_repeat(' ', 15 << 20).'</d>'],
                'no XML' => ['content.xml' => "\0\1\2"],
            ] as $what => $members
        ) {
            memory_reset_peak_usage();
            $before = memory_get_usage();
            expect((string) OfficeText::of($zip($members), 1000))
                ->not->toContain('not yours', $what)
                ->and(memory_get_peak_usage() - $before)
                ->toBeLessThan(40 << 20);
        }
        expect(OfficeText::of($scratch->file('no.docx', 'PK no zip'), 1000))->toBeNull();
    } finally {
        $scratch->remove();
    }
});

it('offers the version before a sudden change, unless the newest is as before again', function (
    array $sizes,
    ?int $good,
    string $because,
): void {
    $versions = array_map(function (int|string|null $size): ?Version {
        $texture = is_string($size) ? ContentTexture::ofEntropy(7.99) : ContentTexture::ofEntropy(4.5);

        return $size === null
            ? null
            : new Version(EntryKind::File, (int) $size, 0, str_repeat('d', 32), 0644, 0, 0, '', '', texture: $texture->code);
    }, $sizes);
    $change = SuddenChange::lastIn($versions);
    expect($change?->good)
        ->toBe($good)
        ->and($change->because ?? '')
        ->toContain($because);
})->with([
    'grows in ordinary work' => [[100, 120, 150, 140], null, ''],
    'emptied' => [[100, 120, 0], 1, 'empty'],
    'most of it gone' => [[5000, 5100, 400], 1, 'most of it'],
    'vanished' => [[100, 120, null], 1, 'vanished'],
    'scrambled' => [[5000, '5000'], 0, 'noise'],
    'emptied, then written anew as small' => [[5000, 0, 90], 0, 'empty'],
    'emptied, then right again' => [[5000, 0, 5200], null, ''],
    'one version' => [[5000], null, ''],
]);
