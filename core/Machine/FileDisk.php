<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk, or a part of one, that is a file of this machine. */
final class FileDisk implements Disk
{
    /** @param  resource  $file */
    private function __construct(private $file, private readonly int $size)
    {
    }

    /** @throws UnreadableImage */
    public static function open(string $path): self
    {
        $file = @fopen($path, 'rb');

        return $file === false ? throw UnreadableImage::because('cannot be opened') : new self($file, (int) (fstat($file)['size'] ?? 0));
    }

    public function size(): int
    {
        return $this->size;
    }

    public function read(int $from, int $length): string
    {
        $length = max(0, min($length, $this->size - $from));
        $bytes = $length > 0 && fseek($this->file, $from) === 0 ? (string) stream_get_contents($this->file, $length) : '';

        return strlen($bytes) === $length ? $bytes : throw UnreadableImage::because("cannot be read at byte $from");
    }
}
