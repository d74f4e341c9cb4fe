<?php

declare(strict_types=1);

use Kaiseki\Core\Machine\AreaWalk;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\DiskDifference;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\Qcow2Writer;
use Kaiseki\Core\UnableToWrite;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\Scratch;

/*
 * qemu-img of QEMU 7.2 as the oracle for what is written ("QCOW2 image format", docs/interop/qcow2 of the QEMU project): check finds no
 * fault, convert gives the bytes; and two raw disks compared byte by byte for what differs.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
});
afterEach(fn () => $this->scratch->remove());

it('writes images and what changed over them, as qemu-img reads them', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $size = $random->getInt(1, 300) * 65536 + 512 * $random->getInt(0, 127) + ($seed % 3 === 0 ? 600 << 20 : 0); // more than one table
    $disk = [];
    for ($level = 0; $level < 3; $level++) {
        $image = $this->scratch->at("$level.qcow2");
        $writer = Qcow2Writer::create($image, $size, $level === 0 ? null : ($level - 1).'.qcow2');
        $numbers = array_map(fn (): int => $random->getInt(0, Blocks::of($size) - 1), range(0, $random->getInt(0, 40)));
        sort($numbers);
        foreach (array_unique($numbers) as $number) {
            $disk[$number] = $random->getInt(0, 4) === 0 ? '' : $random->getBytes(Blocks::length($number, $size));
            $disk[$number] === '' ? $writer->zeros($number, 1) : $writer->block($number, $disk[$number]);
        }
        $writer->finish();
        Disks::qemu('qemu-img', 'check', '-f', 'qcow2', $image);
        $raw = fopen($this->scratch->at('raw'), 'wb');
        ftruncate($raw, $size);
        foreach ($disk as $number => $bytes) {
            fseek($raw, $number * Blocks::BYTES);
            fwrite($raw, $bytes);
        }
        fclose($raw);
        Disks::qemu('qemu-img', 'compare', '-f', 'qcow2', '-F', 'raw', $image, $this->scratch->at('raw'));
        expect(Disks::layer($image)->size())->toBe($size);
    }
})->with(range(1, 6));

it('counts every cluster where these counts take more than one', function (): void {
    $image = $this->scratch->at('large.qcow2');
    $size = 3 << 30;
    $writer = Qcow2Writer::create($image, $size);
    for ($number = 0; $number < 33_000; $number++) {
        $writer->block($number, str_repeat(chr($number % 251), Blocks::BYTES));
    }
    $writer->finish();
    expect(Disks::qemu('qemu-img', 'check', '-f', 'qcow2', $image))->toContain('No errors')
        ->and(Disks::layer($image)->size())->toBe($size);
});

it('says so when the disk is full', function (): void {
    set_error_handler(fn (): bool => true); // what the system says of it is not looked at
    try {
        expect(fn () => Qcow2Writer::create('/dev/full', 1 << 20))->toThrow(UnableToWrite::class, 'is the disk full?');
    } finally {
        restore_error_handler();
    }
});

it('finds the blocks of a disk that are not as they were, and reads no more than it must', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $size = 70 * 65536 + 512 * $random->getInt(0, 127);
    $images = [$this->scratch->at('0.qcow2'), $this->scratch->at('1.qcow2')];
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $images[0], (string) $size);
    Disks::write($images[0], Disks::someWrites($random, $size, 12));
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', '0.qcow2', '-F', 'qcow2', $images[1], (string) $size);
    Disks::write($images[1], Disks::someWrites($random, $size, 4));
    $point = new PointOfDisk(Disks::lists([Disks::layer($images[0])], $this->scratch), true);
    $newest = new PointOfDisk(Disks::lists(array_map(Disks::layer(...), $images), $this->scratch), true);

    // The disk itself is as at the newest point, and then somebody wrote to it.
    [$then, $now] = [$this->scratch->at('then.raw'), $this->scratch->at('now.raw')];
    Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $images[0], $then);
    Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $images[1], $now);
    $writes = Disks::someWrites($random, $size, 3);
    Disks::write($now, $writes, 'raw');
    $wanted = [];
    foreach (str_split((string) file_get_contents($now), Blocks::BYTES) as $number => $bytes) {
        if ($bytes !== substr((string) file_get_contents($then), $number * Blocks::BYTES, Blocks::BYTES)) {
            $wanted[$number] = $bytes;
        }
    }
    $changed = array_map(fn (array $write): array => [$write[1], $write[1] + $write[2]], $writes);
    sort($changed);
    $all = new DiskDifference($point, Disks::raw($now), [[0, $size]]);
    $few = new DiskDifference($point, Disks::raw($now), [[0, $size]], $newest, $changed);
    expect(iterator_to_array($all->blocks()) === $wanted)->toBeTrue()
        ->and(iterator_to_array($few->blocks()) === $wanted)->toBeTrue()
        ->and($few->read)->toBeLessThan($all->read);
})->with(range(1, 12));

it('tells which blocks the areas of a stretch touch', function (): void {
    $walk = new AreaWalk([[0, 1], [65_535, 65_537], [3 * 65_536, 9 * 65_536], [20 * 65_536, 21 * 65_536]]);
    expect(array_keys($walk->blocks(0, 4)))->toBe([0, 1, 3])
        ->and(array_keys($walk->blocks(4, 8)))->toBe([4, 5, 6, 7])
        ->and(array_keys($walk->blocks(8, 100)))->toBe([8, 20]);
});
