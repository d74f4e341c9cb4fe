<?php

declare(strict_types=1);

use Kaiseki\Core\Protect\PartRecord;

// The record beside a set comes from the media, and may say anything.

it('reads what it wrote, and nothing from a record of format 1', function (): void {
    $part = new PartRecord('sda', 'NAME+sda.img', 12, str_repeat('ab', 32));
    expect(PartRecord::all(['parts' => [$part->toArray()]]))
        ->toEqual([$part])
        ->and(PartRecord::all(['format' => 'kaiseki set 1']))
        ->toBe([]);
});

it('takes no part that is named twice, lies elsewhere, or does not say what it is', function (mixed $parts): void {
    $fill = fn (mixed $part): mixed => is_array($part)
        ? $part + ['name' => 'a', 'file' => 'a.img', 'bytes' => 1, 'blake2b_256' => str_repeat('0', 64)]
        : $part;
    PartRecord::all(['parts' => is_array($parts) ? array_map($fill, $parts) : $parts]);
})
    ->throws(InvalidArgumentException::class)
    ->with([
        'no list' => ['parts'],
        'an object' => [['a' => []]],
        'a word in the list' => [['a']],
        'twice' => [[[], []]],
        'one of two without a name' => [[[], ['name' => '']]],
        'in another folder' => [[['file' => '../a.img']]],
        'hidden' => [[['file' => '.ssh']]],
        'without a file' => [[['file' => '']]],
        'with a line break' => [[['file' => "a\nb"]]],
        'not UTF-8' => [[['name' => "\xff"]]],
        'too long' => [[['name' => str_repeat('a', 201)]]],
        'fewer than no bytes' => [[['bytes' => -1]]],
        'bytes as words' => [[['bytes' => '1']]],
        'another digest' => [[['blake2b_256' => 'md5']]],
    ]);
