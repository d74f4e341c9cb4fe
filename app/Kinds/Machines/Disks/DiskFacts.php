<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Models\BackupSet;

/** What is known of one disk of a set. */
final readonly class DiskFacts
{
    public function __construct(
        public string $name,
        /** Bytes of the disk. */
        public int $size,
        /** A value of ImageOf::FORMATS. */
        public string $format,
        /** Whether it is all there, whatever lies below. */
        public bool $isWhole,
        /** Bytes of its blocks that this set holds. */
        public int $held,
    ) {
    }

    /** @return array<string, self> by name, in the order of the parts */
    public static function ofSet(BackupSet $set): array
    {
        $disks = [];
        foreach ((array) ($set->facts['disks'] ?? []) as $disk) {
            $disks[(string) $disk['name']] = new self(
                (string) $disk['name'],
                (int) $disk['size'],
                (string) $disk['format'],
                (bool) $disk['whole'],
                (int) $disk['held'],
            );
        }

        return $disks;
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['name' => $this->name, 'size' => $this->size, 'format' => $this->format, 'whole' => $this->isWhole, 'held' => $this->held];
    }
}
