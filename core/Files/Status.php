<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\EntryKind;

/** What a host says of a thing: statx(2), or what of it there is. */
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

    /** The type bits that a thing of this kind has once it is placed. */
    public static function typeOf(EntryKind $kind): int
    {
        return match ($kind) {
            EntryKind::File => self::FILE,
            EntryKind::Folder => self::FOLDER,
            EntryKind::Symlink => self::SYMLINK,
            default => self::FIFO,
        };
    }

    public function typeInWords(): string
    {
        return match ($this->type) {
            self::FILE => 'file',
            self::FOLDER => 'folder',
            self::SYMLINK => 'link',
            self::FIFO => 'pipe',
            default => 'device or socket',
        };
    }
}
