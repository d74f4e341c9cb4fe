<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\Partition;

/** A partition of a disk of a point, or the disk where it has none, and the files on it. */
final readonly class VolumeOfPoint
{
    public function __construct(
        /** "system.2", or "data" for a disk without partitions: the first part of the paths of its files. */
        public string $name,
        public string $disk,
        public Partition $partition,
        /** Null where nothing is there that is read. */
        public ?FileSystem $files,
        /** Why it cannot be looked into; null if it can. */
        public ?string $because,
    ) {
    }
}
