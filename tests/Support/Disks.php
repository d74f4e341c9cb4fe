<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Archive\ContentSink;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\BlockScan;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\DiskCopy;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\LayeredDisk;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\Qcow2Image;
use Kaiseki\Core\Machine\RawImage;
use Random\Randomizer;
use Symfony\Component\Process\Process;

/** Disk images made by qemu-img and qemu-io, and read by us. */
final class Disks
{
    /** Runs a tool of QEMU; its output. */
    public static function qemu(string ...$command): string
    {
        return (new Process($command))->setTimeout(null)->mustRun()->getOutput();
    }

    /** @param  list<array{string, int, int}>  $writes  what (a number for a byte, "zero", "discard"), from, length */
    public static function write(string $image, array $writes, string $format = 'qcow2'): void
    {
        $commands = [];
        foreach ($writes as [$what, $from, $length]) {
            array_push($commands, '-c', match ($what) {
                'zero' => "write -z $from $length",
                'discard' => "discard $from $length",
                default => "write -P $what $from $length",
            });
        }
        self::qemu('qemu-io', '-f', $format, ...$commands, ...[$image]);
    }

    /**
     * Areas of a disk at random: whole clusters, parts of them, and zeros.
     *
     * @return list<array{string, int, int}>
     */
    public static function someWrites(Randomizer $random, int $size, int $count): array
    {
        $writes = [];
        for ($i = 0; $i < $count; $i++) {
            $from = $random->getInt(0, intdiv($size, 512) - 1) * 512;
            $length = min($size - $from, $random->getInt(1, 400) * 512);
            $writes[] = [$random->getInt(0, 5) === 0 ? 'zero' : (string) $random->getInt(1, 255), $from, $length];
        }

        return $writes;
    }

    /** A disk, or a volume, that lies there byte by byte. */
    public static function raw(string $file): Disk
    {
        return new LayeredDisk([new RawImage(StreamBytes::ofFile($file))]);
    }

    public static function layer(string $file): Qcow2Image
    {
        return Qcow2Image::open(StreamBytes::ofFile($file));
    }

    /**
     * The lists of the blocks of a chain, the lowest image first, as they are made when each is taken in.
     *
     * @param  non-empty-list<Layer>  $layers  the lowest first
     * @return non-empty-list<BlockList> the topmost first
     */
    public static function lists(array $layers, Scratch $scratch): array
    {
        $lists = [];
        foreach ($layers as $i => $layer) {
            $below = $i === 0 ? null : new LayeredDisk(array_reverse(array_slice($layers, 0, $i)));
            BlockList::write($scratch->at("$i.blocks"), $layer->size(), (new BlockScan($layer, $below, $i === 0))->runs());
            array_unshift($lists, BlockList::open($scratch->at("$i.blocks")));
        }

        return $lists;
    }

    /**
     * @param  array<int, Layer>  $layers  level => image
     * @param  non-empty-list<BlockList>  $lists  the topmost first
     */
    public static function copyTo(string $file, array $lists, array $layers, bool $hasBottom = true): DiskCopy
    {
        $copy = new DiskCopy(new PointOfDisk($lists, $hasBottom), new BlockReading($layers));
        $copy->to($sink = new class($file) implements ContentSink
        {
            /** @var resource */
            private $file;

            public function __construct(string $path)
            {
                $this->file = fopen($path, 'w+b') ?: throw new \LogicException("$path cannot be written");
            }

            public function data(string $bytes): void
            {
                fwrite($this->file, $bytes);
            }

            public function hole(int $length): void
            {
                fseek($this->file, $length, SEEK_CUR);
                ftruncate($this->file, (int) ftell($this->file));
            }
        });

        return $copy;
    }
}
