<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** A part of a disk, as its table of partitions has it; or all of it, where it has none. */
final readonly class Partition implements Disk
{
    public function __construct(
        private Disk $disk,
        /** As it is counted on the disk, from 1; 0 for the whole disk. */
        public int $number,
        /** Bytes, from the disk's beginning. */
        public int $from,
        private int $size,
        public string $name = '',
        /** A GUID in capitals; of a table in the first sector a number in lower-case hexadecimal. As sfdisk(8) writes both; '' for none. */
        public string $type = '',
        /** The GUID that is its own, in capitals. */
        public string $uuid = '',
        /** The bits of a GUID partition table's entry; of another table 1 << 7 where it says "active". */
        public int $flags = 0,
    ) {
    }

    public function size(): int
    {
        return $this->size;
    }

    public function read(int $from, int $length): string
    {
        return $from < 0 || $from >= $this->size ? '' : $this->disk->read($this->from + $from, min($length, $this->size - $from));
    }
}
