<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A partition, or a disk without a table, on which a volume group will lie. */
final readonly class GroupPart
{
    public function __construct(public PlannedDisk $disk, public PlannedPartition $partition)
    {
    }

    /** As LVM writes it, with dashes. */
    public function id(): string
    {
        return $this->partition->was->content->uuid;
    }

    /** @param  int  $extent  bytes */
    public function extents(int $extent): int
    {
        return PlannedGroup::extentsOf($this->partition->bytes, $extent);
    }

    /** What LVM is told of where it lay last: a hint, which is right on the machine of the medium. */
    public function device(): string
    {
        $number = $this->partition->was->number;
        $name = $this->disk->onto->name;

        return "/dev/$name".($number === 0 ? '' : (ctype_digit(substr($name, -1)) ? 'p' : '').$number);
    }
}
