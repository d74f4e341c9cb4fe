<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** The uncompressed bytes of an archive, from front to back. */
interface ByteStream
{
    /**
     * The next bytes: exactly $length of them, fewer only where the archive ends.
     *
     * @throws UnreadableArchive
     */
    public function read(int $length): string;

    /**
     * @return int the bytes skipped: fewer than asked only where the archive ends
     *
     * @throws UnreadableArchive
     */
    public function skip(int $length): int;

    /** Uncompressed bytes before the next one, counted from where the stream was opened. */
    public function position(): int;

    /** Where the next byte can be found again. */
    public function place(): Place;
}
