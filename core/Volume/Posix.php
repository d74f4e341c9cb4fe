<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;

/** What file systems of Unix have in common: kinds of files, and names. */
final class Posix
{
    /** Seconds since 1970 that nanoseconds of 64 bits reach to, in the year 2262. */
    public const LAST_SECOND = 9_223_372_035;

    /** The first four bits of a mode, as stat(2) has them. */
    private const KINDS = [
        0x8 => EntryKind::File,
        0x4 => EntryKind::Folder,
        0xA => EntryKind::Symlink,
        0x1 => EntryKind::Fifo,
        0x2 => EntryKind::CharacterDevice,
        0x6 => EntryKind::BlockDevice,
        0xC => EntryKind::NotStored, // a socket
    ];

    /** @throws UnreadableVolume if there is no such kind */
    public static function kind(int $bits, int $inode): EntryKind
    {
        return self::KINDS[$bits] ?? throw UnreadableVolume::damaged("the inode $inode is of no kind that there is");
    }

    /** @throws UnreadableVolume if a folder of no file system can have a file of that name */
    public static function refuseOdd(string $name): void
    {
        if (in_array($name, ['', '.', '..'], true) || str_contains($name, '/') || str_contains($name, "\0")) {
            throw UnreadableVolume::damaged('a name in a folder has a slash or a NUL in it, or is none');
        }
    }
}
