<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\BlockScan;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Machine\VhdImage;
use Kaiseki\Core\Machine\VhdxImage;
use Kaiseki\Core\Machine\VmdkImage;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\Scratch;

/* qemu-img of QEMU 7.2 as the oracle: what it writes in these formats is read as the disk that it wrote. */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->raw = $this->scratch->at('disk.raw');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'raw', $this->raw, (string) ((5 << 20) + 512 * 77));
    Disks::write($this->raw, Disks::someWrites(new Randomizer(new Mt19937(8)), (5 << 20) + 512 * 77, 12), 'raw');
});
afterEach(fn () => $this->scratch->remove());

/** @return Closure(string): Layer */
function opener(string $format): Closure
{
    return fn (string $file): Layer => match ($format) {
        'vpc' => VhdImage::open(StreamBytes::ofFile($file)),
        'vhdx' => VhdxImage::open(StreamBytes::ofFile($file)),
        default => VmdkImage::open(StreamBytes::ofFile($file)),
    };
}

const FORMATS = [
    'a dynamic vhd' => ['vpc', 'force_size=on'],
    'a fixed vhd' => ['vpc', 'force_size=on,subformat=fixed'],
    'a dynamic vhdx' => ['vhdx', 'block_size=1048576'],
    'a vhdx of large pieces' => ['vhdx', 'block_size=8388608'],
    'a fixed vhdx' => ['vhdx', 'subformat=fixed'],
    'a sparse vmdk' => ['vmdk', 'subformat=monolithicSparse'],
    'a vmdk written in one go' => ['vmdk', 'subformat=streamOptimized'],
];

it('reads the disk that qemu-img wrote', function (string $format, string $options): void {
    $image = $this->scratch->at('image');
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', $format, '-o', $options, $this->raw, $image);
    $layer = opener($format)($image);
    $lists = Disks::lists([$layer], $this->scratch);
    Disks::copyTo($this->scratch->at('ours.raw'), $lists, [$layer]);
    Disks::qemu('qemu-img', 'convert', '-f', $format, '-O', 'raw', $image, $this->scratch->at('theirs.raw'));
    expect(hash_file('sha256', $this->scratch->at('ours.raw')))->toBe(hash_file('sha256', $this->scratch->at('theirs.raw')));
})->with(FORMATS);

it('refuses what rests on another image', function (string $format, string $kind): void {
    $base = $this->scratch->at("base.$format");
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', $format, $this->raw, $base);
    Disks::qemu('qemu-img', 'create', '-q', '-f', $format, '-b', $base, '-F', $format, $this->scratch->at('top'));
    opener($kind)($this->scratch->at('top'));
})->with([['vmdk', 'vmdk']])->throws(UnreadableImage::class, 'over another image');

it('ends, and says that an image is damaged, whatever bytes are other ones or missing', function (string $format, string $options): void {
    $image = $this->scratch->at('image');
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', $format, '-o', $options, $this->raw, $image);
    $bytes = (string) file_get_contents($image);
    $random = new Randomizer(new Mt19937(3));
    for ($i = 0; $i < 16; $i++) {
        $at = $random->getInt(0, 2) === 0 ? $random->getInt(0, min(2_000, strlen($bytes) - 9)) : $random->getInt(0, strlen($bytes) - 9);
        $changed = $i % 8 === 0
            ? substr($bytes, 0, $random->getInt(0, strlen($bytes) - 1))
            : substr_replace($bytes, $random->getBytes(8), $at, 8);
        try {
            $layer = opener($format)($this->scratch->file('altered', $changed));
            if ($layer->size() < 1 << 26) {
                expect(iterator_count((new BlockScan($layer, null, true))->runs()))->toBeLessThanOrEqual(1025);
            }
        } catch (UnreadableImage|UnreadableArchive $damaged) {
            expect($damaged->getMessage())->not->toBe('');
        }
    }
    expect(fn () => opener($format)($this->scratch->file('altered', substr($bytes, 0, 300))))->toThrow(UnreadableImage::class);
})->with(FORMATS);
