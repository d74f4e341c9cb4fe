<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** Where something begins in an archive file: so many uncompressed bytes into what starts at an offset of the file. */
final readonly class Place
{
    public function __construct(
        /** Offset in the file: of a gzip member, or of the byte itself in a plain archive. */
        public int $offset,
        /** Uncompressed bytes from there. */
        public int $within,
    ) {
    }
}
