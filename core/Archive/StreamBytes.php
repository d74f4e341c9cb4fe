<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** Bytes behind a PHP stream: a file, or what an object store sends. */
final class StreamBytes implements RawBytes
{
    /** @param  resource  $stream */
    public function __construct(private $stream, private readonly ?int $size = null)
    {
    }

    /** @throws UnreadableArchive */
    public static function ofFile(string $path): self
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            throw UnreadableArchive::cannotOpen(is_file($path) ? 'it may not be read' : 'there is no such file');
        }

        return new self($file);
    }

    public function read(int $length): string
    {
        $bytes = @fread($this->stream, max(1, $length));
        if ($bytes === false) {
            throw UnreadableArchive::cannotOpen('it may not be read');
        }

        return $bytes;
    }

    public function seek(int $offset): void
    {
        if (fseek($this->stream, $offset) === 0) {
            return;
        }
        // A stream that only goes forward.
        if ($offset < (int) ftell($this->stream)) {
            throw UnreadableArchive::cannotOpen('it is only read forward');
        }
        for ($left = $offset - (int) ftell($this->stream); $left > 0; $left -= strlen($bytes)) {
            $bytes = $this->read(min(65536, $left));
            if ($bytes === '') {
                return;
            }
        }
    }

    public function size(): int
    {
        return $this->size ?? (fstat($this->stream)['size'] ?? 0);
    }
}
