<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\GzipStream;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Scratch;

function gzipOf(string ...$members): GzipStream
{
    $file = tmpfile();
    fwrite($file, implode('', array_map(fn (string $member): string => (string) gzencode($member), $members)));
    rewind($file);

    return new GzipStream(new StreamBytes($file));
}

it('reads all members of a file as one stream', function (): void {
    $stream = gzipOf('one ', '', 'two ', str_repeat('three', 100_000));
    expect($stream->read(1_000_000))->toBe('one two '.str_repeat('three', 100_000));
    expect($stream->read(1))->toBe('');
    expect($stream->position())->toBe(500_008);
});

it('skips and reads at random as a string does', function (): void {
    $random = new Randomizer(new Mt19937(3));
    $parts = array_map(fn (): string => $random->getBytes($random->getInt(0, 90_000)), range(1, 12));
    $whole = implode('', $parts);
    $stream = gzipOf(...$parts);
    for ($at = 0; $at < strlen($whole);) {
        $length = $random->getInt(1, 40_000);
        if ($random->getInt(0, 1) === 1) {
            expect($stream->read($length) === substr($whole, $at, $length))->toBeTrue();
        } else {
            expect($stream->skip($length))->toBe(min($length, strlen($whole) - $at));
        }
        $at += $length;
    }
});

it('finds every place again from where its member begins', function (): void {
    $scratch = new Scratch;
    $path = $scratch->path.'/x.gz';
    $file = fopen($path, 'wb');
    $writer = new GzipMemberWriter($file, 1000);
    $random = new Randomizer(new Mt19937(8));
    $places = [];
    foreach (range(1, 60) as $i) {
        $text = "record $i ".bin2hex($random->getBytes($random->getInt(1, 700)));
        $places[] = [$writer->mayBeginMember(), $text];
        $writer->write($text);
    }
    $writer->finish();
    foreach ($random->shuffleArray($places) as [$place, $text]) {
        expect(ArchiveFile::at($path)->openAt($place)->read(strlen($text)))->toBe($text);
    }
    expect(count(array_unique(array_map(fn (array $place): int => $place[0]->offset, $places))))->toBeGreaterThan(10);
    $scratch->remove();
});

it('tells a truncated file at every place it can be cut', function (): void {
    $bytes = gzencode(str_repeat('sailing ', 50)).gzencode(random_bytes(300));
    for ($cut = 3; $cut < strlen($bytes); $cut += 7) {
        $file = tmpfile();
        fwrite($file, substr($bytes, 0, $cut));
        rewind($file);
        $border = strlen((string) gzencode(str_repeat('sailing ', 50)));
        if ($cut === $border) {
            continue;
        }
        expect(fn () => (new GzipStream(new StreamBytes($file)))->skip(10_000))->toThrow(UnreadableArchive::class);
    }
});

it('confirms the checksum of each member', function (): void {
    $bytes = (string) gzencode(str_repeat('a manifest of the noon sailing ', 200), 0); // stored: no flip is noticed by inflating
    $flipped = substr_replace($bytes, chr(ord($bytes[500]) ^ 1), 500, 1);
    $file = tmpfile();
    fwrite($file, $flipped);
    rewind($file);
    expect(fn () => (new GzipStream(new StreamBytes($file)))->skip(100_000))->toThrow(UnreadableArchive::class, 'fail their checksum');
});

it('takes zeros behind the last member for padding, and anything else for damage', function (): void {
    foreach ([["\0\0\0\0", true], ['trash', false]] as [$tail, $good]) {
        $file = tmpfile();
        fwrite($file, gzencode('x').$tail);
        rewind($file);
        $stream = new GzipStream(new StreamBytes($file));
        $good ? expect($stream->read(10))->toBe('x') : expect(fn () => $stream->read(10))->toThrow(UnreadableArchive::class);
    }
});

it('holds little of a bomb in memory', function (): void {
    $file = tmpfile();
    $context = deflate_init(ZLIB_ENCODING_GZIP, ['level' => 9]);
    for ($i = 0; $i < 200; $i++) {
        fwrite($file, (string) deflate_add($context, str_repeat("\0", 1 << 20), ZLIB_NO_FLUSH));
    }
    fwrite($file, (string) deflate_add($context, '', ZLIB_FINISH));
    rewind($file);
    $before = memory_get_usage();
    memory_reset_peak_usage();
    expect((new GzipStream(new StreamBytes($file)))->skip(300 << 20))->toBe(200 << 20);
    expect(memory_get_peak_usage() - $before)->toBeLessThan(48 << 20);
});

it('says where a member begins also after a part of it was written', function (): void {
    $path = tempnam(sys_get_temp_dir(), 'kaiseki-members-');
    $file = fopen($path, 'wb');
    $writer = new GzipMemberWriter($file, 262_144);
    $placed = [];
    for ($number = 0; $number < 60; $number++) {
        $content = str_pad("content $number ", 10_000, bin2hex(random_bytes(8)));
        $placed[] = [$writer->mayBeginMember(), $content];
        $writer->write($content);
    }
    $writer->finish();
    fclose($file);
    $offsets = [];
    foreach ($placed as [$place, $content]) {
        $offsets[$place->offset] = true;
        expect(ArchiveFile::at($path)->openAt($place)->read(10_000))->toBe($content);
    }
    expect(count($offsets))->toBe(3);
    unlink($path);
});
