<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\ContentSink;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Archive\UnreadableArchive;
use Tests\Support\Scratch;
use Tests\Support\TarBytes;

function tarAt(string $bytes): TarReader
{
    static $scratch = null;
    if ($scratch === null) {
        $scratch = new Scratch;
        register_shutdown_function($scratch->remove(...));
    }

    return new TarReader(ArchiveFile::at($scratch->file(bin2hex(random_bytes(4)).'.tar', $bytes))->open());
}

final class KeptContent implements ContentSink
{
    public string $bytes = '';

    public int $holes = 0;

    public function data(string $bytes): void
    {
        $this->bytes .= $bytes;
    }

    public function hole(int $length): void
    {
        $this->holes += $length;
    }
}

it('reads the fields of a ustar header, its prefix included', function (): void {
    $reader = tarAt(
        TarBytes::new()
            ->member('name', 'content', '0', ['prefix' => 'deep/er', 'mode' => "0004751\0"])
            ->bytes(),
    );
    $entry = $reader->next();
    expect($entry?->path)->toBe('deep/er/name');
    expect($entry?->mode)->toBe(04751);
    expect($entry?->size)->toBe(7);
    expect($entry?->mtime)->toBe(octdec('14000000000') * 1_000_000_000);
    expect($entry?->uname)->toBe('root');
    $content = new KeptContent;
    $reader->content($entry, $content);
    expect($content->bytes)->toBe('content');
    expect($reader->next())->toBeNull();
    expect($reader->problems())->toBe([]);
});

it('takes no prefix from a header of GNU tar, which keeps times there', function (): void {
    $entry = tarAt(
        TarBytes::new()
            ->member('folder/', '', '5', ['magic' => "ustar  \0", 'prefix' => '14000000000'])
            ->bytes(),
    )->next();
    expect($entry?->path)->toBe('folder/');
    expect($entry?->kind)->toBe(EntryKind::Folder);
});

it('reads pax records by their lengths, whatever stands in them', function (): void {
    $entry = tarAt(
        TarBytes::new()
            ->pax(['path' => "new\nline=\0x", 'mtime' => '-1.25', 'uid' => '3000000', 'uname' => 'ø'])
            ->member('short', 'x')
            ->bytes(),
    )->next();
    expect($entry?->path)->toBe("new\nline=\0x");
    expect($entry?->mtime)->toBe(-1_250_000_000);
    expect($entry?->uid)->toBe(3_000_000);
    expect($entry?->uname)->toBe('ø');
});

it('lets a global record hold until a member has its own', function (): void {
    $reader = tarAt(
        TarBytes::new()
            ->pax(['uname' => 'everybody'], 'g')
            ->member('a')
            ->pax(['uname' => 'one'])
            ->member('b')
            ->member('c')
            ->bytes(),
    );
    expect([$reader->next()?->uname, $reader->next()?->uname, $reader->next()?->uname])->toBe(['everybody', 'one', 'everybody']);
});

it('reads sizes over 8 GiB in both forms', function (string $size, array $records): void {
    $tar = TarBytes::new();
    if ($records !== []) {
        $tar->pax($records);
    }
    $entry = tarAt($tar->member('huge', '', '0', ['size' => $size])->bytes())->next();
    expect($entry?->size)->toBe(8_589_934_592 + 17);
})->with([
    'base 256 (GNU)' => ["\x80".str_repeat("\0", 6)."\x02\x00\x00\x00\x11", []],
    'pax record' => ["00000000000\0", ['size' => '8589934609']],
]);

it('reads times before 1970 in the form of GNU tar', function (): void {
    $entry = tarAt(
        TarBytes::new()
            ->member('old', '', '0', ['mtime' => str_repeat("\xff", 11)."\xfe"])
            ->bytes(),
    )->next();
    expect($entry?->mtime)->toBe(-2_000_000_000);
});

it('gives the pieces and holes of a sparse file in each of its forms', function (TarBytes $tar): void {
    $reader = tarAt($tar->bytes());
    $entry = $reader->next();
    expect($entry?->path)->toBe('sparse')->and($entry?->size)->toBe(3000);
    $content = new KeptContent;
    $digest = new ContentDigest;
    $reader->content($entry, $content, $digest);
    expect($content->bytes)
        ->toBe('headTAIL!')
        ->and($content->holes)
        ->toBe(3000 - 9);
    expect($digest->finish())->toBe(ContentDigest::of('head'.str_repeat("\0", 1996).'TAIL!'.str_repeat("\0", 995)));
    expect($reader->next())->toBeNull();
})->with([
    '0.0' => [
        fn () => TarBytes::new()
            ->raw(
                (function (): string {
                    // The keywords repeat, in order, so the record is put together by hand.
                    $body = '';
                    foreach (
                        [
                            ['GNU.sparse.major', '0'],
                            ['GNU.sparse.size', '3000'],
                            ['GNU.sparse.numblocks', '2'],
                            ['GNU.sparse.offset', '0'],
                            ['GNU.sparse.numbytes', '4'],
                            ['GNU.sparse.offset', '2000'],
                            ['GNU.sparse.numbytes', '5'],
                        ] as [$k, $v]
                    ) {
                        $line = " $k=$v\n";
                        $length = strlen($line) + 2;
                        $body .= $length.$line;
                    }

                    return substr(TarBytes::new()->member('PaxHeaders/x', $body, 'x')->bytes(), 0, -1024);
                })(),
            )
            ->member('sparse', 'headTAIL!'),
    ],
    '0.1' => [
        fn () => TarBytes::new()
            ->pax(['GNU.sparse.size' => '3000', 'GNU.sparse.name' => 'sparse', 'GNU.sparse.map' => '0,4,2000,5'])
            ->member('x', 'headTAIL!'),
    ],
    '1.0' => [
        fn () => TarBytes::new()
            ->pax(['GNU.sparse.major' => '1', 'GNU.sparse.minor' => '0', 'GNU.sparse.name' => 'sparse', 'GNU.sparse.realsize' => '3000'])
            ->member('GNUSparseFile.1/sparse', str_pad("2\n0\n4\n2000\n5\n", 512, "\0").'headTAIL!'),
    ],
]);

it('refuses what claims too much', function (TarBytes $tar, string $says): void {
    $reader = tarAt($tar->bytes());
    expect(function () use ($reader): void {
        while ($reader->next() !== null) {
        }
    })->toThrow(UnreadableArchive::class, $says);
})->with([
    'a header of a gigabyte' => [
        fn () => TarBytes::new()->member('x', '', 'x', ['size' => sprintf("%011o\0", 1 << 30)]),
        'a header of 1073741824 bytes',
    ],
    'a long name of a gigabyte' => [fn () => TarBytes::new()->member('x', '', 'L', ['size' => sprintf("%011o\0", 1 << 30)]), 'a header of'],
    'overlapping pieces' => [
        fn () => TarBytes::new()
            ->pax(['GNU.sparse.size' => '3000', 'GNU.sparse.map' => '0,5,3,4'])
            ->member('x', 'headTAIL!'),
        'overlap',
    ],
    'pieces beyond the end' => [
        fn () => TarBytes::new()
            ->pax(['GNU.sparse.size' => '8', 'GNU.sparse.map' => '0,4,6,5'])
            ->member('x', 'headTAIL!'),
        'lie outside',
    ],
    'a sparse file of 8 EiB' => [
        fn () => TarBytes::new()
            ->pax(['GNU.sparse.size' => '9223372036854775807', 'GNU.sparse.map' => '0,9'])
            ->member('x', 'headTAIL!'),
        'does not fit',
    ],
    'a size that is none' => [
        fn () => TarBytes::new()
            ->pax(['size' => '99999999999999999999'])
            ->member('x'),
        'a size that is none',
    ],
    'a record without a length' => [fn () => TarBytes::new()->member('x', 'path=x', 'x')->member('y'), 'not well formed'],
    'a size of 8 EiB in an ordinary file' => [
        fn () => TarBytes::new()->member('x', 'short', '0', ['size' => "\x80\0\0\0\x7f".str_repeat("\xff", 7)]),
        'a member of',
    ],
]);

it('passes over a damaged header and goes on with the next member', function (): void {
    $bytes = TarBytes::new()->member('one', '1')->member('two', '2')->member('three', '3')->bytes();
    $bytes[1024 + 5] = 'X'; // in the name of the second
    $reader = tarAt($bytes);
    expect([$reader->next()?->path, $reader->next()?->path, $reader->next()])->toBe(['one', 'three', null]);
    expect($reader->problems()[0])->toContain('header at uncompressed byte 1024 is damaged');
});

it('says so when the end-of-archive mark is missing', function (): void {
    $reader = tarAt(substr(TarBytes::new()->member('one', '1')->bytes(), 0, -1024));
    expect($reader->next()?->path)->toBe('one')->and($reader->next())->toBeNull();
    expect($reader->problems()[0])->toContain('no end-of-archive mark');
});

it('tells a file that is no archive', function (string $bytes): void {
    expect(fn () => tarAt($bytes)->next())->toThrow(UnreadableArchive::class, 'not a tar archive');
})->with(['text' => [str_repeat('This is a notice of the harbour office. ', 40)], 'noise' => [random_bytes(4096)]]);

it('ends with an error, not silently, wherever an archive is cut', function (): void {
    $whole = TarBytes::new()
        ->pax(['path' => 'long'])
        ->member('x', str_repeat('a', 1500))
        ->member('y', 'b')
        ->bytes();
    foreach ([513, 600, 1100, 1537, 2000, 3000] as $cut) {
        expect(function () use ($whole, $cut): void {
            $reader = tarAt(substr($whole, 0, $cut));
            while (($entry = $reader->next()) !== null) {
                $reader->content($entry, new KeptContent);
            }
        })->toThrow(UnreadableArchive::class);
    }
});
