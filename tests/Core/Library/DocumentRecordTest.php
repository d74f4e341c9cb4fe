<?php

declare(strict_types=1);

use Kaiseki\Core\Library\DocumentRecord;

it('reads what a library knows of a document', function (): void {
    $record = DocumentRecord::of((string) json_encode([
        'title' => 'The bar at springs', 'author' => 'Ines Varga', 'version' => 2,
        'versions' => [
            ['version' => 1, 'author' => 'Ines Varga', 'saved_at' => '2026-10-04T12:05:00+02:00', 'remark' => ''],
            ['version' => 2, 'author' => 'Milo Aske', 'saved_at' => 'last week', 'remark' => 'as agreed'],
        ],
    ]));
    expect([$record?->title, $record?->author, $record?->version])->toBe(['The bar at springs', 'Ines Varga', 2])
        ->and(array_map(fn ($one): array => [$one->number, $one->author, $one->savedAt?->iso()], $record->versions ?? []))
        ->toBe([[2, 'Milo Aske', null], [1, 'Ines Varga', '2026-10-04T10:05:00Z']])
        ->and(DocumentRecord::pathOf('Charts/Bar.md'))->toBe('.library/documents/Charts/Bar.md.json')
        ->and($record?->authors())->toBe(['Ines Varga', 'Milo Aske'])
        ->and(DocumentRecord::documentOf('.library/documents/Charts/Bar.md.json'))->toBe('Charts/Bar.md')
        ->and(DocumentRecord::documentOf('tree/room/.library/documents/Bar.json'))->toBe('tree/room/Bar')
        ->and(DocumentRecord::documentOf('my.library/documents/Bar.json'))->toBeNull()
        ->and(DocumentRecord::documentOf('.library/documents/.json'))->toBeNull()
        ->and(DocumentRecord::versionAt('Charts/Bar.md', 2))->toBe('.library/versions/Charts/Bar.md/2.md')
        ->and(DocumentRecord::versionAt('Bar', 1))->toBe('.library/versions/Bar/1')
        ->and(DocumentRecord::pathOf('room/Charts/Bar.md', 'room'))->toBe('room/.library/documents/Charts/Bar.md.json')
        ->and(DocumentRecord::versionAt('a/room/Bar.md', 2, 'a/room'))->toBe('a/room/.library/versions/Bar.md/2.md')
        ->and(DocumentRecord::documentOf(DocumentRecord::pathOf('a/room/Bar.md', 'a/room')))->toBe('a/room/Bar.md')
        ->and(DocumentRecord::librariesOf('a/room/Bar.md'))->toBe(['a/room', 'a', ''])
        ->and(DocumentRecord::librariesOf(''))->toBe([]);
});

it('takes nothing for one that is none, and no more of it than is shown', function (string $json, ?int $versions): void {
    $record = DocumentRecord::of($json);
    expect($record === null ? null : count($record->versions))->toBe($versions)
        ->and(mb_strlen($record->title ?? ''))->toBeLessThanOrEqual(300)
        ->and(mb_check_encoding($record->title ?? '', 'UTF-8'))->toBeTrue();
})->with([
    'no JSON' => ['{"title":', null],
    'a list' => ['[1, 2]', null],
    'no title' => ['{"author": "x"}', null],
    'a title that is a list' => ['{"title": ["x"]}', null],
    'too deep' => ['{"title": "x", "versions": [[[[[[[[[1]]]]]]]]]}', null],
    'versions that are none' => ['{"title": "x", "versions": [1, "a", {"version": "3"}, {"version": -1}, {"version": 4}]}', 1],
    'very many' => ['{"title": "x", "versions": ['.substr(str_repeat('{"version":1},{"version":2},', 400), 0, -1).']}', 2],
    'a long title' => ['{"title": "'.str_repeat('ü', 5_000).'"}', 0],
]);
