<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\ManifestLine;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Instant;
use Tests\Support\Scratch;

it('makes a path of a tree of what stands in an archive', function (string $given, string $path): void {
    expect(EntryPath::of($given))->toBe($path);
})->with([
    ['./a/b', 'a/b'],
    ['/etc/passwd', 'etc/passwd'],
    ['a//b/', 'a/b'],
    ['a/./b', 'a/b'],
    ['.', ''],
    ['', ''],
    ['./', ''],
    ["new\nline", "new\nline"],
    ['..a/b..', '..a/b..'],
    ['...', '...'],
    ["\xff\xfe", "\xff\xfe"],
    ['a/.hidden', 'a/.hidden'],
]);

it('takes no path that leads out, or that no file system could hold', function (string $given): void {
    expect(fn () => EntryPath::of($given))->toThrow(UnsafePath::class);
})->with([['../x'], ['a/../../x'], ['a/..'], ['..'], ["a\0b"], [str_repeat('x', 256)], [str_repeat('a/', 5000).'b']]);

it('keeps the outermost of some paths', function (): void {
    expect(EntryPath::outermost(['b/c', 'a', 'a/b', 'b', 'ab']))->toBe(['a', 'ab', 'b']);
    expect(EntryPath::outermost(['x', '']))->toBe(['']);
});

it('shows names so that neither a terminal nor a page takes them for more than names', function (string $name, string $shown): void {
    expect(Shown::name($name))->toBe($shown);
})->with([
    ['plain name.txt', 'plain name.txt'],
    ['ÆØÅ ferje', 'ÆØÅ ferje'],
    ["two\nlines\t", 'two\nlines\t'],
    ["\e[31mred", '\x1b[31mred'],
    ["\xff\xfe bad", '\xff\xfe bad'],
    ["a\u{202e}gpj.exe", 'a\xe2\x80\xaegpj.exe'],
    ["\u{9b}31m", '\xc2\x9b31m'],
    ["\xc3", '\xc3'],
    ["ok\xf0\x9f\x9a\xa2", 'ok🚢'],
]);

it('gives a version back from its packed form', function (Version $version): void {
    expect(Version::unpack($version->pack()))->toEqual($version);
    expect(Version::join(...Version::columns($version->pack())))->toBe($version->pack())
        ->and(Version::hasList($version->pack()))->toBe($version->access !== '');
})->with([
    [new Version(EntryKind::File, 5, -7, str_repeat('d', 32), 04755, 4_294_967_295, 0, 'uname', 'gname', '', PHP_INT_MAX, true)],
    [new Version(EntryKind::Symlink, 0, PHP_INT_MAX, null, 0777, 1, 2, '', str_repeat('g', 255), "target\0\xff")],
    [new Version(EntryKind::Folder, 0, PHP_INT_MIN, null, 0, 0, 0, '', '')],
    [new Version(EntryKind::Folder, 0, 0, null, 02770, 0, 0, 'a', 'b', access: 'user::rwx,group:staff:r-x,mask::rwx,default:user::rwx')],
    [Version::unknown()],
]);

it('puts folders above an entry in place, and takes what is below a folder away with it', function (): void {
    $file = (new Version(EntryKind::File, 1, 0, str_repeat('x', 32), 0644, 0, 0, '', ''))->pack();
    $folder = (new Version(EntryKind::Folder, 0, 0, null, 0755, 0, 0, '', ''))->pack();
    $tree = new Tree;
    $tree->put('a/b/c', $file);
    $tree->put('a/b/12', $file);
    expect(array_keys([...$tree->entries()]))->toBe(['a', 'a/b', 'a/b/c', 'a/b/12']);
    $tree->put('a/b', $file); // a folder becomes a file
    expect([...$tree->entries()])
        ->toHaveCount(2)
        ->and($tree->children('a/b'))
        ->toBeNull();
    $tree->put('a', $folder); // a folder told again keeps what is in it
    expect($tree->at('a/b'))->toBe($file);
    $tree->remove('a');
    expect([...$tree->entries()])->toBe([]);
});

it('finds each content in an index by halving, in memory and on the disk', function (int $count): void {
    $scratch = new Scratch;
    $records = $digests = [];
    for ($i = 0; $i < $count; $i++) {
        $digests[$i] = ContentDigest::of("content $i");
        $records[] = PlaceIndex::pack($digests[$i], new Place($i * 1000, $i), $i);
    }
    PlaceIndex::write("{$scratch->path}/index", $records);
    $index = PlaceIndex::open("{$scratch->path}/index");
    foreach ([0, intdiv($count, 3), intdiv($count, 2), $count - 1] as $i) {
        expect($index->find($digests[$i]))->toEqual(new Place($i * 1000, $i));
    }
    expect($index->find(ContentDigest::of('something else')))->toBeNull();
    expect($index->find(str_repeat("\0", 32)))->toBeNull()->and($index->find(str_repeat("\xff", 32)))->toBeNull();
    expect(iterator_count($index->digests()))->toBe($count);
    $scratch->remove();
})->with([1, 7, 3000, 320_000]);

it('has no content in an empty index', function (): void {
    $scratch = new Scratch;
    PlaceIndex::write("{$scratch->path}/index", []);
    expect(PlaceIndex::open("{$scratch->path}/index")->find(str_repeat('a', 32)))->toBeNull();
    $scratch->remove();
});

it('reads moments with an offset only', function (string $text, string $iso): void {
    expect(Instant::parse($text)->iso())->toBe($iso);
})->with([
    ['2026-11-12T08:24:00+01:00', '2026-11-12T07:24:00Z'],
    ['2026-11-12T08:24Z', '2026-11-12T08:24:00Z'],
    ['20261112T082400Z', '2026-11-12T08:24:00Z'],
    ['2026-11-12 08:24:00.123456 -0330', '2026-11-12T11:54:00.123456Z'],
    ['1969-12-31T23:59:59.5Z', '1969-12-31T23:59:59.5Z'],
]);

it('refuses moments that are none', function (string $text, string $says): void {
    expect(fn () => Instant::parse($text))->toThrow(InvalidArgumentException::class, $says);
})->with([
    ['2026-11-12T08:24:00', 'no offset'],
    ['2026-02-30T08:24:00Z', 'exists'],
    ['yesterday', 'not a moment'],
    ['2026-11-12T25:00Z', 'exists'],
]);

it('has a list in a line of a manifest as in the catalog, and takes none that is no list', function (): void {
    $list = 'user::rw-,user:mail:r--,group::r--,mask::rw-,other::---';
    $version = new Version(EntryKind::File, 1, 0, str_repeat('x', 32), 0660, 0, 0, '', '', access: $list);
    $json = (new ManifestLine('a', $version, true))->json();
    expect(ManifestLine::parse($json)->version)->toEqual($version)
        ->and(ManifestLine::parse(str_replace('user:mail', 'user mail', $json))->version->access)->toBe('?')
        ->and(ManifestLine::parse(str_replace('"file"', '"symlink"', $json))->version->access)->toBe('');
});
