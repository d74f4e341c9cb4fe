<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Generator;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\OneMember;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\UnreadableImage;

/**
 * Files of a volume as if they were the members of an archive, each far behind the one before: so whatever brings files back out of
 * archives brings them out of disks.
 */
final class VolumeArchive implements RawBytes
{
    /** Bytes from one member to the next, which no file is longer than. */
    private const STRIDE = 1 << 42;

    private string $ready = '';

    private ?Generator $rest = null;

    /** @param  list<array{FileSystem, FoundFile}>  $files */
    private function __construct(private readonly array $files)
    {
    }

    /** @param  list<array{FileSystem, FoundFile}>  $files */
    public static function of(array $files): ArchiveFile
    {
        return ArchiveFile::known(function (int $offset) use ($files): RawBytes {
            $bytes = new self($files);
            $bytes->seek($offset);

            return $bytes;
        }, false);
    }

    /** Where a file stands in it, by its number in the list. */
    public static function place(int $number): Place
    {
        return new Place($number * self::STRIDE, 0);
    }

    public function read(int $length): string
    {
        try {
            while ($this->ready === '' && $this->rest !== null && $this->rest->valid()) {
                $this->ready = (string) $this->rest->current();
                $this->rest->next();
            }
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            throw UnreadableArchive::cannotOpen("the volume {$unreadable->getMessage()}");
        }
        $bytes = substr($this->ready, 0, $length);
        $this->ready = (string) substr($this->ready, strlen($bytes));

        return $bytes;
    }

    public function seek(int $offset): void
    {
        $number = intdiv($offset, self::STRIDE);
        $this->ready = '';
        $this->rest = isset($this->files[$number]) ? $this->member(...$this->files[$number]) : null;
        for ($left = $offset % self::STRIDE; $left > 0; $left -= strlen($bytes)) {
            $bytes = $this->read(min($left, 1 << 18));
            if ($bytes === '') {
                return;
            }
        }
    }

    public function size(): int
    {
        return count($this->files) * self::STRIDE;
    }

    /** @return Generator<string> */
    private function member(FileSystem $volume, FoundFile $file): Generator
    {
        yield OneMember::head($file->version->size, $file->extended);
        yield from $volume->content($file);
        $behind = $file->version->size % 512;
        yield $behind === 0 ? '' : str_repeat("\0", 512 - $behind);
    }
}
