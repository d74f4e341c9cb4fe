<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** An archive on a disk, plain or gzipped, told by its first two bytes. */
final readonly class ArchiveFile
{
    private function __construct(public string $path, public bool $gzipped)
    {
    }

    /** @throws UnreadableArchive */
    public static function at(string $path): self
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            throw UnreadableArchive::cannotOpen(is_file($path) ? 'it may not be read' : 'there is no such file');
        }
        $start = (string) fread($file, 2);
        fclose($file);
        if (strlen($start) < 2) {
            throw UnreadableArchive::cannotOpen('it is empty');
        }

        return new self($path, $start === "\x1f\x8b");
    }

    /** @throws UnreadableArchive */
    public function open(int $offset = 0): ByteStream
    {
        $file = @fopen($this->path, 'rb');
        if ($file === false || fseek($file, $offset) !== 0) {
            throw UnreadableArchive::cannotOpen('it may not be read');
        }

        return $this->gzipped ? new GzipStream($file, $offset) : new PlainStream($file, $offset);
    }

    /** @throws UnreadableArchive */
    public function openAt(Place $place): ByteStream
    {
        $stream = $this->open($place->offset);
        if ($stream->skip($place->within) < $place->within) {
            throw UnreadableArchive::endsEarly($place->within);
        }

        return $stream;
    }
}
