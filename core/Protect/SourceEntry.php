<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Archive\EntryKind;

/** Something found in a source while a set is made. */
final readonly class SourceEntry
{
    public function __construct(
        public string $path,
        public EntryKind $kind,
        public int $size,
        public int $mode,
        public int $uid,
        public int $gid,
        public string $uname,
        public string $gname,
        /** Nanoseconds since 1970. */
        public int $mtime,
        /** When its inode changed last: a content written with its old time put back shows here. */
        public int $ctime,
        public int $inode,
        public int $device,
        public int $links,
        public string $linkTarget,
        /** @var array<string, string> its attributes, as TarEntry::$extended has them, where they are known */
        public array $extended = [],
        /** Its access list, see AccessList; '' for none, and where nobody was asked. */
        public string $access = '',
    ) {
    }
}
