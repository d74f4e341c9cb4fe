<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** A member of a tar archive, as its headers describe it. Names are bytes, as they stand in the archive. */
final readonly class TarEntry
{
    public function __construct(
        public string $path,
        public EntryKind $kind,
        /** Bytes of the content, holes included. */
        public int $size,
        /** Bytes of the content that stand in the archive, without the map of a sparse file. */
        public int $storedSize,
        /** Permission bits, 0 to 07777. */
        public int $mode,
        public int $uid,
        public int $gid,
        public string $uname,
        public string $gname,
        /** Nanoseconds since 1970. */
        public int $mtime,
        public string $linkTarget,
        /** The records of an incremental folder entry, or null where there are none. */
        public ?DumpDir $dumpDir,
        /** @var list<array{int, int}>|null offset and length of the pieces of a sparse file, in order */
        public ?array $pieces,
        public Place $place,
        /** Uncompressed position of the first header that belongs to this member. */
        public int $position,
        /** @var array<string, string> SCHILY.xattr.* and SCHILY.acl.* of the pax header, by keyword */
        public array $extended = [],
    ) {
    }
}
