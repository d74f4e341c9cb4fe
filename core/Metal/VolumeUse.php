<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** What a machine itself says of a file system that it has mounted: its superblock on the disk does not know. */
final readonly class VolumeUse
{
    public function __construct(
        /** Where it is mounted: a path from the top, without a slash before it; '' for the top. */
        public string $at,
        /** Bytes in use. */
        public int $used,
        public int $inodes,
    ) {
    }
}
