<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A name in a folder of Btrfs and what it leads to, or an attribute and its value. */
final readonly class BtrfsEntry
{
    /**
     * @param  int  $type  BtrfsItem::INODE for a file of this subvolume, BtrfsItem::ROOT for another subvolume
     * @param  int  $bytes  that it takes
     */
    public function __construct(public int $number, public int $type, public string $name, public string $value, public int $bytes)
    {
    }
}
