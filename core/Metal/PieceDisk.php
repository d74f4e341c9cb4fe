<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Machine\Disk;

/** A disk of which some stretches are known, and the rest is taken for zeros: enough to read how it is laid out. */
final class PieceDisk implements Disk
{
    /** @param  array<int, string>  $pieces  where each begins => its bytes */
    public function __construct(private readonly int $size, private array $pieces)
    {
    }

    public function with(int $from, string $bytes): self
    {
        return new self($this->size, [$from => $bytes] + $this->pieces);
    }

    public function size(): int
    {
        return $this->size;
    }

    public function read(int $from, int $length): string
    {
        $length = max(0, min($length, $this->size - $from));
        $bytes = str_repeat("\0", $length);
        foreach ($this->pieces as $at => $piece) {
            $begin = max($from, $at);
            $end = min($from + $length, $at + strlen($piece));
            if ($begin < $end) {
                $bytes = substr_replace($bytes, substr($piece, $begin - $at, $end - $begin), $begin - $from, $end - $begin);
            }
        }

        return $bytes;
    }
}
