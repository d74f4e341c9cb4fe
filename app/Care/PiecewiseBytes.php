<?php

declare(strict_types=1);

namespace App\Care;

use Closure;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;

/** Bytes of a store that are asked for at one offset after the other: opened anew only where the next is not at hand. */
final class PiecewiseBytes implements RawBytes
{
    private ?RawBytes $open = null;

    private int $at = 0;

    private int $wanted = 0;

    /** @param  Closure(int): RawBytes  $bytes  opens them at an offset */
    public function __construct(private readonly Closure $bytes, private readonly int $size)
    {
    }

    public function read(int $length): string
    {
        if ($this->open === null || $this->at !== $this->wanted) {
            $this->open = ($this->bytes)($this->wanted);
            $this->at = $this->wanted;
        }
        try {
            $bytes = $this->open->read($length);
        } catch (UnreadableArchive $unreadable) {
            $this->open = null;
            throw $unreadable;
        }
        $this->at = $this->wanted = $this->at + strlen($bytes);

        return $bytes;
    }

    public function seek(int $offset): void
    {
        $this->wanted = $offset;
    }

    public function size(): int
    {
        return $this->size;
    }
}
