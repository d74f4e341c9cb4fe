<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** The bytes of an archive as they are stored, wherever that is: a disk, an object store, cartridges. */
interface RawBytes
{
    /**
     * The next bytes, at most so many; '' only at the end.
     *
     * @throws UnreadableArchive
     */
    public function read(int $length): string;

    /**
     * Goes to an offset, counted from the beginning.
     *
     * @throws UnreadableArchive
     */
    public function seek(int $offset): void;

    public function size(): int;
}
