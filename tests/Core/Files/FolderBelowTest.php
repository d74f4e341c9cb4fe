<?php

declare(strict_types=1);

use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\UnableToRestore;
use Tests\Support\Scratch;

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->outside = $this->scratch->folder('outside');
    $this->folder = FolderBelow::open($this->scratch->folder('target'));
});

afterEach(function (): void {
    unset($this->folder);
    $this->scratch->remove();
});

it('makes files and folders below it, with times to the nanosecond', function (): void {
    $this->folder->makeFolder('a/b/c');
    $file = $this->folder->createFile("a/b/c/new\nline");
    $file->data('hello');
    $file->hole(100_000);
    $file->finish(0640, 0, 0, 1_234_567_890_123_456_789, false);
    $status = $this->folder->status("a/b/c/new\nline");
    expect($status?->size)->toBe(100_005)->and($status?->mode)->toBe(0640)->and($status?->mtime)->toBe(1_234_567_890_123_456_789);
    expect($status?->allotted)->toBeLessThan(100_000);
    expect($this->folder->digest("a/b/c/new\nline"))->toBe(sodium_crypto_generichash('hello'.str_repeat("\0", 100_000), '', 32));
});

it('keeps times before 1970', function (): void {
    $this->folder->createFile('old')->finish(0600, 0, 0, -1_500_000_000, false);
    expect($this->folder->status('old')?->mtime)->toBe(-1_500_000_000);
});

it('does not go through a link on the way, whoever put it there', function (): void {
    symlink($this->outside, $this->folder->path.'/door');
    expect(fn () => $this->folder->createFile('door/escaped'))->toThrow(UnableToRestore::class, 'might lead out');
    expect(fn () => $this->folder->makeFolder('door/deeper'))->toThrow(UnableToRestore::class);
    expect(fn () => $this->folder->symlink('x', 'door/escaped'))->toThrow(UnableToRestore::class);
    expect($this->folder->status('door/anything'))->toBeNull()->and($this->folder->names('door'))->toBe([]);
    expect(scandir($this->outside))->toBe(['.', '..']);
});

it('does not leave by a folder that is swapped for a link while it is at work', function (): void {
    $this->folder->makeFolder('a');
    $this->folder->createFile('a/one')->finish(0644, 0, 0, 0, false);
    rename($this->folder->path.'/a', $this->folder->path.'/moved');
    symlink($this->outside, $this->folder->path.'/a');
    // The folder that was opened before is still the one that is written to.
    $this->folder->createFile('a/two')->finish(0644, 0, 0, 0, false);
    expect(scandir($this->outside))->toBe(['.', '..'])->and(file_exists($this->folder->path.'/moved/two'))->toBeTrue();
});

it('never writes over what is there, nor through a link that has the name', function (): void {
    file_put_contents($this->folder->path.'/there', 'kept');
    symlink($this->outside.'/made', $this->folder->path.'/link');
    expect(fn () => $this->folder->createFile('there'))->toThrow(UnableToRestore::class);
    expect(fn () => $this->folder->createFile('link'))->toThrow(UnableToRestore::class);
    expect(file_get_contents($this->folder->path.'/there'))->toBe('kept')->and(file_exists($this->outside.'/made'))->toBeFalse();
});

it('renames onto nothing only', function (): void {
    file_put_contents($this->folder->path.'/one', '1');
    file_put_contents($this->folder->path.'/two', '2');
    expect($this->folder->rename('one', 'two'))->toBeFalse()->and(file_get_contents($this->folder->path.'/two'))->toBe('2');
    expect($this->folder->rename('one', 'three'))->toBeTrue()->and(file_exists($this->folder->path.'/three'))->toBeTrue();
});

it('removes a tree without following its links', function (): void {
    $kept = $this->scratch->file('outside/kept', 'x');
    $this->folder->makeFolder('gone/deep');
    symlink($this->outside, $this->folder->path.'/gone/deep/door');
    $this->folder->removeTree('gone');
    expect(file_exists($this->folder->path.'/gone'))->toBeFalse()->and(file_exists($kept))->toBeTrue();
});

it('works a thousand folders deep, and with more folders than may be open', function (): void {
    $deep = implode('/', array_fill(0, 1000, 'd'));
    $this->folder->makeFolder($deep);
    $this->folder->createFile("$deep/file")->finish(0644, 0, 0, 0, false);
    expect($this->folder->status("$deep/file"))->not->toBeNull();
    for ($i = 0; $i < 300; $i++) {
        $this->folder->makeFolder("many/$i");
        $this->folder->createFile("many/$i/file")->finish(0644, 0, 0, 0, false);
    }
    expect($this->folder->names('many'))->toHaveCount(300);
    $this->folder->removeTree('d');
    expect($this->folder->status('d'))->toBeNull();
});

it('makes the last part of its own path only', function (): void {
    expect(FolderBelow::make($this->scratch->path.'/new')->names(''))->toBe([]);
    expect(fn () => FolderBelow::make($this->scratch->path.'/no/such'))->toThrow(UnableToRestore::class, 'does not exist');
});

it('marks a name in front of its ending and keeps it within what a file system holds', function (): void {
    expect(RestoreOrder::marked('roster.csv', '2026-11-12 0824'))->toBe('roster (2026-11-12 0824).csv');
    expect(RestoreOrder::marked('.hidden', '2'))->toBe('.hidden (2)');
    expect(strlen(RestoreOrder::marked(str_repeat('x', 255), '2026-11-12 0824')))->toBe(255);
});
