<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\BlockScan;
use Kaiseki\Core\Machine\Qcow2Header;
use Kaiseki\Core\Machine\UnreadableImage;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\Scratch;

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->image = $this->scratch->at('good.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $this->image, '4M');
    Disks::write($this->image, [['7', 0, 200_000], ['zero', 1 << 20, 65536]]);
    Disks::qemu('qemu-img', 'convert', '-c', '-f', 'qcow2', '-O', 'qcow2', $this->image, "$this->image.packed");
});
afterEach(fn () => $this->scratch->remove());

/** @param  array<int, string>  $changes  offset => bytes */
function altered(string $image, array $changes, Scratch $scratch): string
{
    $bytes = (string) file_get_contents($image);
    foreach ($changes as $at => $put) {
        $bytes = substr_replace($bytes, $put, $at, strlen($put));
    }

    return $scratch->file('altered.qcow2', $bytes);
}

function readWhole(string $image): int
{
    $layer = Disks::layer($image);

    return iterator_count((new BlockScan($layer, null, true))->runs());
}

it('refuses heads that ask for the absurd', function (array $changes, string $because): void {
    expect(fn () => readWhole(altered($this->image, $changes, $this->scratch)))->toThrow(UnreadableImage::class, $because);
})->with([
    'no image' => [[0 => 'QFI!'], 'is no qcow2 image'],
    'another version' => [[4 => pack('N', 9)], 'of version 9'],
    'an encrypted one' => [[32 => pack('N', 1)], 'is encrypted'],
    'clusters of a byte' => [[20 => pack('N', 0)], 'clusters'],
    'clusters of a gigabyte' => [[20 => pack('N', 30)], 'clusters'],
    'a disk of exabytes' => [[24 => pack('J', PHP_INT_MAX)], 'absurd size'],
    'a table too small for its disk' => [[24 => pack('J', 1 << 50)], 'first table'],
    'a table of gigabytes' => [[36 => pack('N', 0xFFFFFFFF)], 'first table'],
    'a table behind the end' => [[40 => pack('J', 1 << 40)], 'first table'],
    'a table in the head' => [[40 => pack('J', 0)], 'first table'],
    'data in another file' => [[72 => pack('J', 1 << 2)], 'another file'],
    'one that is corrupt' => [[72 => pack('J', 1 << 1)], 'corrupt'],
    'features nobody knows' => [[72 => pack('J', 1 << 40)], 'features'],
    'a backing name outside its head' => [[8 => pack('J', 1 << 30), 16 => pack('N', 10)], 'backing file'],
    'a backing name without end' => [[8 => pack('J', 104), 16 => pack('N', 1 << 30)], 'backing file'],
]);

it('tells the name of a backing file, and opens nothing', function (string $name): void {
    $image = altered($this->image, [8 => pack('J', 1000), 16 => pack('N', strlen($name)), 1000 => $name], $this->scratch);
    expect(Disks::layer($image)->header->backing)->toBe($name)
        ->and(readWhole($image))->toBeGreaterThan(0);
})->with(['/etc/shadow', 'nbd://198.51.100.7:10809', 'json:{"driver":"file"}', '/dev/stdin', "name\nof\0bytes\xff"]);

it('gives what it says or says that it is damaged, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    foreach ([$this->image, "$this->image.packed"] as $image) {
        $length = (int) filesize($image);
        for ($i = 0; $i < 120; $i++) {
            $at = $random->getInt(0, 2) === 0 ? $random->getInt(0, 120) : $random->getInt(0, $length - 9);
            $changed = altered($image, [$at => $random->getBytes($random->getInt(1, 8))], $this->scratch);
            try {
                $size = Qcow2Header::read(Kaiseki\Core\Archive\StreamBytes::ofFile($changed))->size;
                if ($size < 1 << 26) {
                    expect(readWhole($changed))->toBeLessThanOrEqual(intdiv($size, 65536) + 1);
                }
            } catch (UnreadableImage|UnreadableArchive $damaged) {
                expect($damaged->getMessage())->not->toBe('');
            }
        }
    }
})->with([1, 2, 3]);

it('says that a truncated image is damaged, where qemu-img converts it without a word', function (): void {
    $cut = $this->scratch->file('cut.qcow2', substr((string) file_get_contents($this->image), 0, -100_000));
    Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $cut, "$cut.raw"); // ends well: see facts of the trade, tried here
    expect(fn () => readWhole($cut))->toThrow(UnreadableImage::class, 'it is');
});
