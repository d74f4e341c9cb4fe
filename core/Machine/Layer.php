<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** One image of a disk: all of it, or what changed over the image below. Which one that is, is never the image's to say. */
interface Layer
{
    /** Bytes of the disk. */
    public function size(): int;

    /**
     * What it holds where, in order and without gaps; neighbours that say the same are one.
     *
     * @return iterable<Extent>
     *
     * @throws UnreadableImage
     */
    public function extents(): iterable;

    /**
     * What it holds of an area; null for what it leaves to the layer below.
     *
     * @return iterable<array{int, string|null}> length, and bytes; in order, together as long as asked, or less at the disk's end
     *
     * @throws UnreadableImage
     */
    public function read(int $from, int $length): iterable;
}
