<?php

declare(strict_types=1);

use Kaiseki\Core\Catalog\NameList;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Scratch;

it('finds the names that trying each of them finds, in their order, a part at a time', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $scratch = new Scratch;
    try {
        $list = new NameList("{$scratch->path}/names");
        $pieces = ['roster', 'Roster', 'ÆRØ', 'ærø', '.csv', '.CSV', "\n", '\\n', '\\', ' ', '1', '12', '*', '%', '_', "\xff", 'ẞ', 'é'];
        $names = [];
        for ($i = 0; $i < 600; $i++) {
            $name = '';
            for ($n = $random->getInt(1, 4); $n > 0; $n--) {
                $name .= $pieces[$random->getInt(0, count($pieces) - 1)];
            }
            $names[$name] = true;
        }
        $names = array_map(strval(...), array_keys($names));
        $list->add(array_slice($names, 0, 300));
        $list->add(array_slice($names, 200)); // some come twice
        usort($names, fn (string $a, string $b): int => strcmp(str_replace("\n", "\x01\x03", $a), str_replace("\n", "\x01\x03", $b)));
        foreach (
            [
                'roster',
                'ROSTER',
                'ær',
                'Æ',
                "\n",
                '\\',
                '\\n',
                '12',
                '%',
                '_',
                "\xff",
                '',
                'no such',
                '*.csv',
                'R*',
                '?1',
                '*',
                "*\n*",
                '\\*',
                '1?2',
                '*Ø*',
            ] as $pattern
        ) {
            $isGlob = strpbrk($pattern, '*?') !== false;
            $expected = array_values(
                array_filter(
                    $names,
                    fn (string $name): bool => $isGlob
                        ? preg_match('/^'.strtr(preg_quote($pattern, '/'), ['\*' => '.*', '\?' => '.']).'$/sD', $name) === 1
                        : str_contains(
                            mb_strtolower(mb_scrub($name, 'UTF-8'), 'UTF-8'),
                            mb_strtolower(mb_scrub($pattern, 'UTF-8'), 'UTF-8'),
                        ),
                ),
            );
            $found = [];
            for ($after = null; ($some = $list->matching($pattern, 7, $after)) !== []; $after = $some[count($some) - 1]) {
                $found = [...$found, ...$some];
            }
            expect($found)->toBe($expected, "\"$pattern\", seed $seed");
        }
    } finally {
        $scratch->remove();
    }
})->with([1, 2, 3]);
