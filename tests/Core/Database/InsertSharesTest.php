<?php

declare(strict_types=1);

use Kaiseki\Core\Database\InsertShares;
use Random\Engine\Mt19937;
use Random\Randomizer;

// Whatever the pieces are and whoever asks when: each INSERT goes to one share, whole; each has, before an INSERT, all that stood before
// it and is for all.

it('holds that each row goes to one share, behind everything that stood before it', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $statements = [];
    for ($i = 0; $i < 120; $i++) {
        $statements[] = match ($random->getInt(0, 5)) {
            0 => "/*!40000 ALTER TABLE `t$i` DISABLE KEYS */;\n",
            1 => "USE `s$i`;\n",
            2 => "--\n-- Dumping data for table `t$i`\n--\n\nINSERT INTO `t` VALUES\n($i,'a;b'),\n($i,';');\n",
            default => "INSERT INTO `t` VALUES\n($i,'".str_repeat('x\\n;', $random->getInt(0, 200))."'),\n($i,NULL);\n",
        };
    }
    $isRows = fn (string $statement): bool => str_contains($statement, 'INSERT INTO');
    $source = (function () use ($statements, $random): iterable {
        for ($text = implode('', $statements); $text !== ''; $text = substr($text, $length)) {
            yield substr($text, 0, $length = $random->getInt(1, 700));
        }
    })();
    $shares = new InsertShares($source);
    $open = array_map(fn () => $shares->share(), range(1, 3));
    $got = ['', '', ''];
    while ($open !== []) {
        $n = array_rand($open);
        if (! $open[$n]->valid()) {
            unset($open[$n]);

            continue;
        }
        $got[$n] .= $open[$n]->current();
        $open[$n]->next();
    }
    $rows = [];
    foreach ($got as $text) {
        $expected = '';
        $own = array_filter($statements, fn (string $statement): bool => ! $isRows($statement) || str_contains($text, $statement));
        $expected = implode('', $own);
        expect($text)->toBe($expected);
        $rows = [...$rows, ...array_filter($own, $isRows)];
    }
    expect($rows)->toHaveCount(count(array_filter($statements, $isRows)));
})->with(range(1, 12));

it('holds that a last statement without its semicolon is not lost', function (): void {
    $share = (new InsertShares(["SET a = 1;\nINSERT INTO t VALUES (1);\nCOM", 'MIT']))->share();
    expect(implode('', iterator_to_array($share, false)))->toBe("SET a = 1;\nINSERT INTO t VALUES (1);\nCOMMIT");
});
