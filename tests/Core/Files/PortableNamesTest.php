<?php

declare(strict_types=1);

use Kaiseki\Core\Files\PortableNames;
use Random\Engine\Mt19937;
use Random\Randomizer;

// The rules: "Naming Files, Paths, and Namespaces", Microsoft Learn; Unicode's bidirectional controls (UAX 9).

it('gives names that mean the same on every system', function (string $name, string $safe): void {
    expect(PortableNames::name($name))->toBe($safe);
})->with([
    'backslash' => ['..\\..\\evil.txt', '.._.._evil.txt'], 'drive' => ['C:evil', 'C_evil'], 'device' => ['con', '_con'],
    'device with an ending' => ['NUL.txt', '_NUL.txt'], 'device in superscript' => ['com¹.log', '_com¹.log'],
    'no device' => ['console', 'console'],
    'dot behind' => ['name.', 'name_'], 'space behind' => ['name . ', 'name_'], 'line break' => ["a\nb", 'a_b'],
    'escape' => ["a\x1b[2Jb", 'a_[2Jb'], 'turned round' => ["invoice\u{202E}fdp.exe", 'invoice_fdp.exe'],
    'wildcards' => ['a*b?c"d<e>f|g', 'a_b_c_d_e_f_g'],
    'no text' => ["\xff\xfea", '__a'], 'only dots' => ['...', '_'], 'plain' => ['Ærlig plan (2).ods', 'Ærlig plan (2).ods'],
]);

it('never makes two paths one, and tells each change', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $letters = ['a', 'A', '\\', ':', '.', ' ', "\n", '_', '*', 'é', "\xff"];
    $paths = [];
    for ($i = 0; $i < 400; $i++) {
        $part = fn (): string => implode(
            '',
            array_map(fn (): string => $letters[$random->getInt(0, count($letters) - 1)], range(1, $random->getInt(1, 4))),
        );
        $path = implode(
            '/',
            array_filter(
                array_map(fn (): string => $part(), range(1, $random->getInt(1, 3))),
                fn (string $p): bool => ! in_array($p, ['.', '..'], true),
            ),
        );
        $path === '' || $paths[$path] = true;
    }
    $paths = array_map(strval(...), array_keys($paths));
    $names = new PortableNames;
    $names->reserve($paths);
    $given = array_map($names->of(...), $paths);
    expect(array_unique($given))->toHaveCount(count($given));
    foreach ($given as $i => $path) {
        foreach (explode('/', $path) as $part) {
            expect($part)->not->toMatch('/[\x00-\x1f\x7f<>:"|?*\\\\]|[. ]$/')->not->toBe('');
        }
        expect($names->changed()[$path] ?? $path)->toBe($paths[$i])->and($names->of($paths[$i]))->toBe($path);
    }
})->with(range(1, 8));
