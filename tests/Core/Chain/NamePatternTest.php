<?php

declare(strict_types=1);

use Kaiseki\Core\Chain\NamePattern;

it('tells the fields of a name, whatever else is in it', function (string $pattern, string $name, ?array $fields): void {
    expect((new NamePattern($pattern))->fields($name))->toBe($fields);
})->with([
    'all of them' => ['{name}.{disk}.{level}.{stamp}.qcow2', 'a.b.sda.full.20261001T020000Z.qcow2',
        ['name' => 'a.b', 'disk' => 'sda', 'level' => 'full', 'stamp' => '20261001T020000Z']],
    'in another order' => ['{stamp}_L{level}_{name}.raw', '20261001T020000Z_L5_harbour.raw',
        ['stamp' => '20261001T020000Z', 'level' => '5', 'name' => 'harbour']],
    'what is no field stands as it is' => ['{name}+(x)', 'a+(x)', ['name' => 'a']],
    'another level' => ['{level}', 'weekly', null],
    'a stamp without a zone' => ['{name}.{stamp}', 'a.20261001T020000', null],
    'a line break at the end' => ['{name}.{level}', "a.full\n", null],
    'any bytes in a name' => ['{name}.{level}', "\xff\n.full", ['name' => "\xff\n", 'level' => 'full']],
]);

it('refuses a pattern that names a field twice', function (): void {
    new NamePattern('{name}.{level}.{level}');
})->throws(InvalidArgumentException::class, 'twice');

it('takes the moment of the name, else that of the file', function (): void {
    touch($file = (string) tempnam(sys_get_temp_dir(), 'pattern'), 1_790_000_000);
    expect(NamePattern::moment('20261001T020000Z', $file)->iso())->toStartWith('2026-10-01T02:00:00')
        ->and(NamePattern::moment(null, $file)->microseconds)->toBe(1_790_000_000_000_000);
    unlink($file);
});
