<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** How what lies on a partition comes onto another disk. */
enum ContentKind: string
{
    /** ext2 to ext4: made anew with its own number, and filled with its files. Any size that they fit in. */
    case Ext = 'ext';

    /** Swap: made anew with its own number. */
    case Swap = 'swap';

    /** Whatever else: byte by byte, on as much room as it had. */
    case Image = 'image';

    /** What no set has anything of: the room is there, and blank. */
    case Blank = 'blank';

    public function mayShrink(): bool
    {
        return $this === self::Ext;
    }

    /** In words, for people. */
    public function words(): string
    {
        return match ($this) {
            self::Ext => 'made anew, and filled with its files',
            self::Swap => 'made anew',
            self::Image => 'byte by byte',
            self::Blank => 'left blank: the set has nothing of it',
        };
    }
}
