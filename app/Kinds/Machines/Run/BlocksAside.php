<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Instance;
use App\Models\Run;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\Held;
use Kaiseki\Core\Machine\Qcow2Image;
use Kaiseki\Core\Machine\Qcow2Writer;
use Symfony\Component\Filesystem\Filesystem;

/** What a rollback wrote over: an image of each disk, in qcow2, that holds nothing but those blocks as they were. */
final readonly class BlocksAside
{
    private string $folder;

    public function __construct(Run $run)
    {
        $this->folder = Instance::folder('runs')."/machine-aside-{$run->id}";
    }

    /**
     * All of it, or nothing.
     *
     * @param  iterable<int, string>  $blocks  number => bytes, in order
     *
     * @throws \Kaiseki\Core\UnableToWrite
     */
    public function keep(string $disk, int $size, iterable $blocks): void
    {
        (new Filesystem)->mkdir($this->folder, 0700);
        $writer = Qcow2Writer::create("{$this->file($disk)}.partial", $size);
        foreach ($blocks as $number => $bytes) {
            Blocks::isZero($bytes) ? $writer->zeros($number, 1) : $writer->block($number, $bytes);
        }
        $writer->finish();
        rename("{$this->file($disk)}.partial", $this->file($disk));
    }

    public function has(string $disk): bool
    {
        return is_file($this->file($disk));
    }

    public function count(string $disk): int
    {
        return iterator_count((fn () => yield from $this->numbers($disk))());
    }

    /** @return iterable<int> of the blocks that it holds, in order */
    public function numbers(string $disk): iterable
    {
        $image = $this->image($disk);
        foreach ($image->extents() as $extent) {
            for ($at = $extent->from; $extent->held !== Held::Below && $at < $extent->to; $at += Blocks::BYTES) {
                yield intdiv($at, Blocks::BYTES);
            }
        }
    }

    public function image(string $disk): Qcow2Image
    {
        return Qcow2Image::open(StreamBytes::ofFile($this->file($disk)));
    }

    /** Writes them back to where they were. */
    public function writeTo(string $disk, NbdDisk $to): void
    {
        $image = $this->image($disk);
        foreach ($image->extents() as $extent) {
            if ($extent->held === Held::Zeros) {
                $to->zero($extent->from, $extent->to - $extent->from);
            }
            for ($at = $extent->from; $extent->held === Held::Data && $at < $extent->to;) {
                foreach ($image->read($at, min(1 << 20, $extent->to - $at)) as [$length, $bytes]) {
                    $to->write($at, (string) $bytes);
                    $at += $length;
                }
            }
        }
    }

    /** @return list<string> the disks of which a run keeps some */
    public static function disksOf(Run $run): array
    {
        $files = glob((new self($run))->folder.'/*.qcow2') ?: [];

        return array_map(fn (string $file): string => basename($file, '.qcow2'), $files);
    }

    private function file(string $disk): string
    {
        return "{$this->folder}/$disk.qcow2";
    }

    public function remove(): void
    {
        (new Filesystem)->remove($this->folder);
    }
}
