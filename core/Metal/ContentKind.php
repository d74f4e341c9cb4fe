<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** How what lies on a partition comes onto another disk. */
enum ContentKind: string
{
    /** ext2 to ext4: made anew with its own number, and filled with its files. Any size that they fit in. */
    case Ext = 'ext';

    /** XFS: the same, where a file system of its size is still made. */
    case Xfs = 'xfs';

    /** Swap: made anew with its own number. */
    case Swap = 'swap';

    /** Whatever else: byte by byte, on as much room as it had. */
    case Image = 'image';

    /** A part of a volume group of LVM: what it is known by is made anew, and the volumes of the group lie on it. */
    case Group = 'group';

    /** What no set has anything of: the room is there, and blank. */
    case Blank = 'blank';

    /** Whether it is made anew and filled with its files, and so may have another size. */
    public function isFilled(): bool
    {
        return $this === self::Ext || $this === self::Xfs;
    }

    /** Whether it may have another size than it had. */
    public function mayResize(): bool
    {
        return $this->isFilled() || $this === self::Group;
    }

    /** Bytes that one must have at the least: mkfs.xfs(8) makes none with fewer. */
    public function least(): int
    {
        return $this === self::Xfs ? 300 << 20 : 0;
    }

    /** Bytes beside what is in use, of one that is made smaller: the log of a new XFS may be larger than its old one was. */
    public function spare(): int
    {
        return $this === self::Xfs ? 96 << 20 : 8 << 20;
    }

    /** In words, for people. */
    public function words(): string
    {
        return match ($this) {
            self::Ext, self::Xfs => 'made anew, and filled with its files',
            self::Swap => 'made anew',
            self::Image => 'byte by byte',
            self::Group => 'a part of a volume group, which is made anew',
            self::Blank => 'left blank: the set has nothing of it',
        };
    }
}
