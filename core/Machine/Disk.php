<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk, or a part of one, byte by byte. */
interface Disk
{
    public function size(): int;

    /**
     * Exactly so many bytes, or those up to its end.
     *
     * @throws UnreadableImage
     */
    public function read(int $from, int $length): string;
}
