<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\BlockScan;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\DiskCheck;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Machine\LayeredDisk;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\RawImage;
use Kaiseki\Core\Machine\UnwrittenCheck;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\Scratch;

/*
 * qemu-img and qemu-io of QEMU 7.2 as the oracle: they make the chains ("QCOW2 image format", docs/interop/qcow2 of the QEMU project),
 * and convert says what each point holds.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
});
afterEach(fn () => $this->scratch->remove());

it('gives each point of a random chain as qemu-img does', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $size = $random->getInt(20, 90) * 65536 + $random->getInt(0, 1) * 512 * $random->getInt(1, 127);
    $layers = [];
    for ($i = 0; $i < 5; $i++) {
        $image = $this->scratch->at("$i.qcow2");
        $cluster = [512, 4096, 65536, 2 << 20][$random->getInt(0, 3)];
        // The disk grows, or is made shorter, on the way.
        $size += $i === 2 ? 512 * $random->getInt(-200, 300) : 0;
        $base = $i === 0 ? [] : ['-b', $i - 1 .'.qcow2', '-F', 'qcow2'];
        Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', '-o', "cluster_size=$cluster", ...$base, ...[$image, (string) $size]);
        Disks::write($image, Disks::someWrites($random, $size, $random->getInt(1, 25)));
        if ($random->getInt(0, 2) === 0) {
            // The same with compressed clusters.
            $options = ['-c', '-O', 'qcow2', '-o', "cluster_size=$cluster", ...$i === 0 ? [] : ['-B', $i - 1 .'.qcow2', '-F', 'qcow2']];
            Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', ...$options, ...[$image, "$image.packed"]);
            rename("$image.packed", $image);
        }
        $layers[] = Disks::layer($image);
        $lists = Disks::lists($layers, $this->scratch);
        $copy = Disks::copyTo($this->scratch->at('ours.raw'), $lists, array_reverse($layers));
        Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $image, $this->scratch->at('theirs.raw'));
        expect($copy->missingCount)
            ->toBe(0)
            ->and(hash_file('sha256', $this->scratch->at('ours.raw')))
            ->toBe(hash_file('sha256', $this->scratch->at('theirs.raw')));
        $check = DiskCheck::ofStream(new PointOfDisk($lists, true), fopen($this->scratch->at('theirs.raw'), 'rb'));
        expect($check->isRight())->toBeTrue();
    }
})->with(range(1, 12));

it('finds every block that is another in what was brought back', function (): void {
    $random = new Randomizer(new Mt19937(7));
    $size = 40 * 65536 + 1024;
    $image = $this->scratch->at('0.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $image, (string) $size);
    Disks::write($image, Disks::someWrites($random, $size, 20));
    $lists = Disks::lists([Disks::layer($image)], $this->scratch);
    Disks::copyTo($this->scratch->at('disk.raw'), $lists, [Disks::layer($image)]);
    $bytes = (string) file_get_contents($this->scratch->at('disk.raw'));
    for ($i = 0; $i < 40; $i++) {
        $at = $random->getInt(0, $size - 1);
        $flipped = $bytes;
        $flipped[$at] = chr(ord($flipped[$at]) ^ (1 << $random->getInt(0, 7)));
        file_put_contents($this->scratch->at('flipped.raw'), $flipped);
        $check = DiskCheck::ofStream(new PointOfDisk($lists, true), fopen($this->scratch->at('flipped.raw'), 'rb'));
        $block = intdiv($at, Blocks::BYTES) * Blocks::BYTES;
        expect($check->isRight())
            ->toBeFalse()
            ->and($check->wrongAreas()->ranges)
            ->toBe([[$block, min($size, $block + Blocks::BYTES)]]);
    }
    foreach ([substr($bytes, 0, -1), "$bytes\0"] as $other) {
        file_put_contents($this->scratch->at('flipped.raw'), $other);
        expect(DiskCheck::ofStream(new PointOfDisk($lists, true), fopen($this->scratch->at('flipped.raw'), 'rb'))->isRight())->toBeFalse();
    }
});

it('does not read holes, and takes no block for right that should be there instead', function (): void {
    $random = new Randomizer(new Mt19937(8));
    $size = 60 * 65536 + 512;
    $image = $this->scratch->at('0.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $image, (string) $size);
    Disks::write($image, [['17', 0, 3 * 65536], ['18', 20 * 65536 + 7 * 512, 512], ['19', 59 * 65536, 65536]]);
    $lists = Disks::lists([Disks::layer($image)], $this->scratch);
    Disks::copyTo($this->scratch->at('disk.raw'), $lists, [Disks::layer($image)]);
    $point = new PointOfDisk($lists, true);
    $held = [[0, 3 * 65536], [20 * 65536, 21 * 65536], [59 * 65536, $size]];
    $read = 0;
    $disk = new class(FileDisk::open($this->scratch->at('disk.raw')), $read) implements Disk
    {
        public function __construct(private readonly Disk $disk, private int &$read)
        {
        }

        public function size(): int
        {
            return $this->disk->size();
        }

        public function read(int $from, int $length): string
        {
            $this->read += $length;

            return $this->disk->read($from, $length);
        }
    };
    expect(DiskCheck::ofDisk($point, $disk, held: $held)->isRight())->toBeTrue()->and($read)->toBe($size - 16 * 65536);
    foreach (array_keys($held) as $gone) {
        $check = DiskCheck::ofDisk($point, $disk, held: array_values(array_diff_key($held, [$gone => true])));
        expect([$gone, $check->isRight()])->toBe([$gone, false]);
    }

    // What a machine has written itself is left out of it, block by block; of the rest nothing.
    for ($i = 0; $i < 30; $i++) {
        $bytes = (string) file_get_contents($this->scratch->at('disk.raw'));
        $written = [];
        foreach (range(1, $random->getInt(1, 5)) as $area) {
            $from = $random->getInt(0, $size - 1);
            $written[] = [$from, min($size, $from + $random->getInt(1, 200_000))];
        }
        sort($written);
        foreach ($written as [$from, $to]) {
            $bytes = substr_replace($bytes, random_bytes($to - $from), $from, $to - $from);
        }
        $at = $random->getInt(0, $size - 1);
        $bytes[$at] = chr(ord($bytes[$at]) ^ 1);
        file_put_contents($this->scratch->at('ran.raw'), $bytes);
        $touched = array_filter(
            range(0, Blocks::of($size) - 1),
            fn (int $number): bool => array_filter($written, fn (array $area): bool => $area[0] < ($number + 1) * Blocks::BYTES
                && $area[1] > $number * Blocks::BYTES) !== [],
        );
        $check = new UnwrittenCheck($point, FileDisk::open($this->scratch->at('ran.raw')), $written);
        $isHidden = in_array(intdiv($at, Blocks::BYTES), $touched, true);
        expect([$check->isRight(), $check->written, $check->compared, $check->wrong])
            ->toBe([$isHidden, count($touched), Blocks::of($size) - count($touched), $isHidden ? 0 : 1]);
    }
});

it('gives what is sound of a damaged chain, and says which blocks are not', function (): void {
    $base = $this->scratch->at('0.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $base, (string) (20 * 65536));
    Disks::write($base, [['17', 0, 10 * 65536]]);
    $top = $this->scratch->at('1.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', '-b', '0.qcow2', '-F', 'qcow2', $top);
    Disks::write($top, [['34', 3 * 65536, 2 * 65536], ['51', 8 * 65536, 512]]);
    $lists = Disks::lists([Disks::layer($base), Disks::layer($top)], $this->scratch);

    // Without the base: what the increment holds whole is there, block 8 only with what lies under it.
    $copy = Disks::copyTo($this->scratch->at('part.raw'), $lists, [0 => Disks::layer($top)]);
    expect($copy->missing)->toBe([0, 1, 2, 5, 6, 7, 9]);
    $bytes = (string) file_get_contents($this->scratch->at('part.raw'));
    expect(substr($bytes, 3 * 65536, 65536))
        ->toBe(str_repeat("\x22", 65536))
        ->and(substr($bytes, 65536, 65536))
        ->toBe(str_repeat("\0", 65536));

    // One bit of the base's data.
    $damaged = (string) file_get_contents($base);
    $at = (int) strpos($damaged, str_repeat("\x11", 65536)) + 5 * 65536 + 99;
    $damaged[$at] = "\x10";
    file_put_contents($base, $damaged);
    $copy = Disks::copyTo($this->scratch->at('part.raw'), $lists, [Disks::layer($top), Disks::layer($base)]);
    expect($copy->missing)->toBe([5]);
});

it('knows nothing of blocks whose base is unknown, and all of those that came later', function (): void {
    $chain = [];
    foreach (range(0, 2) as $i) {
        $chain[$i] = $this->scratch->at("$i.qcow2");
        Disks::qemu(
            'qemu-img',
            'create',
            '-q',
            '-f',
            'qcow2',
            ...$i === 0 ? [] : ['-b', $i - 1 .'.qcow2', '-F', 'qcow2'],
            ...[$chain[$i], (string) (6 * 65536)],
        );
        Disks::write($chain[$i], [[(string) ($i + 1), $i * 65536, 2 * 65536]]);
    }
    Disks::write($chain[2], [['9', 5 * 65536, 512]]);
    // The first is lost before it was ever taken in.
    $one = Disks::layer($chain[1]);
    $two = Disks::layer($chain[2]);
    BlockList::write($this->scratch->at('1'), $one->size(), (new BlockScan($one, null, false))->runs());
    BlockList::write($this->scratch->at('2'), $two->size(), (new BlockScan($two, null, false))->runs());
    $lists = [BlockList::open($this->scratch->at('2')), BlockList::open($this->scratch->at('1'))];
    expect(Disks::copyTo($this->scratch->at('part.raw'), $lists, [$two, $one], false)->missing)->toBe([0, 4]);
});

it('reads a raw image as it is, whatever it begins with', function (): void {
    $qcow2 = $this->scratch->at('0.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $qcow2, '1M');
    $raw = new RawImage(StreamBytes::ofFile($qcow2));
    expect((new LayeredDisk([$raw]))->read(0, 1 << 20))->toBe(file_get_contents($qcow2));
});

it('refuses a list of blocks that is not as it was written', function (): void {
    $image = $this->scratch->at('0.qcow2');
    Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', $image, '1M');
    Disks::write($image, [['7', 0, 200_000]]);
    Disks::lists([Disks::layer($image)], $this->scratch);
    $bytes = (string) file_get_contents($this->scratch->at('0.blocks'));
    foreach ([0, 20, 60, strlen($bytes) - 1] as $at) {
        $flipped = $bytes;
        $flipped[$at] = chr(ord($flipped[$at]) ^ 4);
        file_put_contents($this->scratch->at('flipped'), $flipped);
        expect(fn () => BlockList::open($this->scratch->at('flipped')))->toThrow(Kaiseki\Core\UnableToRead::class);
    }
});
