<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

/** What statx(2) says of a file. */
final readonly class Status
{
    public const FILE = 0100000;

    public const FOLDER = 0040000;

    public const SYMLINK = 0120000;

    public const FIFO = 0010000;

    public function __construct(
        /** The file type bits. */
        public int $type,
        /** The permission bits. */
        public int $mode,
        public int $size,
        /** Nanoseconds since 1970. */
        public int $mtime,
        public int $ctime,
        public int $uid,
        public int $gid,
        public int $links,
        public int $inode,
        public int $device,
        /** Bytes allotted on the disk. */
        public int $allotted,
    ) {
    }
}
