<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** Those that are read: a further one is a further line here. */
final class FileSystems
{
    /** In words. */
    public const READ = 'ext2 to ext4, XFS, Btrfs, FAT and NTFS';

    /**
     * Null if a volume holds none that is read.
     *
     * @throws UnreadableVolume if it is damaged, or has what is not read
     */
    public static function on(Disk $disk): ?FileSystem
    {
        return Ext::on($disk) ?? Xfs::on($disk) ?? Btrfs::on($disk) ?? Ntfs::on($disk) ?? Fat::on($disk);
    }
}
