<?php

declare(strict_types=1);

use App\Models\Role;
use Kaiseki\Core\Library\DocumentRecord;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Tests\Support\Archives;

/* Documents by who wrote them. The oracle goes through every night and every document, as they were. */

const AUTHORS = ['Ines Varga', 'Søren Joss', 'Élodie Marchand', 'Petra Lund'];

/** @param  list<string>  $authors  of the document, then of its versions */
function recordOf(array $authors): string
{
    return (string) json_encode([
        'title' => 'A chart', 'author' => $authors[0], 'version' => count($authors),
        'versions' => array_map(fn (int $at): array => ['version' => $at + 1, 'author' => $authors[$at]], array_keys($authors)),
    ]); // as PHP writes it: letters beyond ASCII as \u escapes
}

it('finds the documents of an author at every point, as their library said then', function (int $seed): void {
    $random = new Randomizer(new Xoshiro256StarStar($seed));
    $archives = new Archives($this->scratch());
    [$now, $then, $size] = [[], [], 0];
    foreach (['full', 'incr', 'incr', 'full', 'incr'] as $level) {
        foreach (range(1, 12) as $number) {
            $path = $number % 3 === 0 ? "deep/in it/$number.md" : "$number.md";
            if ($random->getInt(0, 2) === 0) {
                $archives->put($path, str_repeat('x', ++$size)); // each content has a size of its own
                $now[$path]['size'] = $size;
            }
            if (isset($now[$path]) && $random->getInt(0, 3) === 0) {
                $authors = $random->shuffleArray(AUTHORS);
                $now[$path]['authors'] = array_slice($authors, 0, $random->getInt(1, 2));
                $archives->put(DocumentRecord::pathOf($path), recordOf($now[$path]['authors']));
            }
            if (isset($now[$path]) && $random->getInt(0, 9) === 0) {
                $archives->delete($path);
                $now[$path]['size'] = null;
            }
        }
        $archives->dump($level);
        $then[] = $now;
    }
    $this->told(0, 'adopt', $archives->folder, '--as=charts');
    $all = 0;
    foreach (AUTHORS as $author) {
        $expected = [];
        foreach ($then as $night) {
            foreach ($night as $path => $document) {
                if (isset($document['size']) && in_array($author, $document['authors'] ?? [], true)) {
                    $expected["/tree/$path {$document['size']}"] = true;
                }
            }
        }
        $found = $this->told(0, 'find', 'charts', '--author='.mb_strtoupper(explode(' ', $author)[0]))['versions'];
        expect(array_map(fn (array $one): string => "{$one['path']} {$one['size']}", $found))
            ->toEqualCanonicalizing(array_keys($expected));
        $all += count($expected);
    }
    expect($all)->toBeGreaterThan(0);
})->with(range(1, 4));

it('is one field of the search, with the others; what is no record names nobody', function (): void {
    $archives = (new Archives($this->scratch()))->put('a.md', 'the bar at springs')->put('b.md', 'lights')->put('c.md', 'buoys')
        ->put(DocumentRecord::pathOf('a.md'), recordOf(['Ines Varga']))->put(DocumentRecord::pathOf('b.md'), recordOf(['Ines Varga']))
        ->put(DocumentRecord::pathOf('c.md'), '{"author": "Ines Varga"}')
        ->put('else/.library/documents/c.md.json', recordOf(['Ines Varga']));
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=charts');
    $paths = fn (string ...$more): array => array_column($this->told(0, 'find', 'charts', ...$more)['versions'], 'path');
    expect($paths('--author=varga'))->toBe(['/tree/a.md', '/tree/b.md'])->and($paths('--author=varga', '--size=>10'))->toBe(['/tree/a.md'])
        ->and($paths('b*', '--author=varga'))->toBe(['/tree/b.md'])->and($paths('--author=aske'))->toBe([]);
    $this->actingAs($this->person(Role::Operator));
    $this->get('/search?author=varga')->assertOk()->assertSee('a.md')->assertSee('b.md')->assertDontSee('c.md');
    $this->get('/search?author=varga&size=%3E10')->assertOk()->assertSee('a.md')->assertDontSee('b.md');
});

it('shows what a library knows wherever in the tree it lies, and takes along what belongs to a folder of it', function (): void {
    $archives = (new Archives($this->scratch()))
        ->put('rooms/chart/Bars/springs.md', 'the bar')
        ->put(DocumentRecord::pathOf('rooms/chart/Bars/springs.md', 'rooms/chart'), recordOf(['Ines Varga']))
        ->put(DocumentRecord::versionAt('rooms/chart/Bars/springs.md', 1, 'rooms/chart'), 'the bar before')
        ->put('rooms/other.md', 'no library has it')
        ->put(DocumentRecord::pathOf('rooms/chart/Bars/springs.md'), recordOf(['Milo Aske'])) // of a library further up
        ->put('plain/a.md', 'of the library at the top')
        ->put(DocumentRecord::pathOf('plain/a.md'), recordOf(['Petra Lund']));
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree', '--kind=files');
    $point = App\Models\BackupSet::query()->sole();
    $records = new App\Trees\Places\LibraryRecords($point);
    $author = fn (string $path): ?string => $records->of($path)?->authors()[0] ?? null;
    expect([$author('tree/rooms/chart/Bars/springs.md'), $author('tree/plain/a.md'), $author('tree/rooms/other.md')])
        ->toBe(['Ines Varga', 'Petra Lund', null])
        ->and($records->has('tree/rooms/chart/Bars/springs.md', 1))->toBeTrue()
        ->and($records->has('tree/plain/a.md', 1))->toBeFalse()
        ->and($records->beside(['tree/rooms/chart/Bars']))
        ->toBe(['tree/rooms/chart/.library/documents/Bars', 'tree/rooms/chart/.library/versions/Bars'])
        ->and($records->beside(['tree/rooms/other.md', '']))->toBe([]);
    $this->actingAs($this->person(App\Models\Role::Operator))
        ->get("/sets/{$point->id}/look?path=".rawurlencode('tree/rooms/chart/Bars/springs.md'))
        ->assertSee('In its library')->assertSee('Ines Varga');
});
