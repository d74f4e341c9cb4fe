<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/**
 * An access list as acl(5) writes it, out of the bytes in which Linux keeps it: version 1 on a disk with ext (the kernel's fs/ext4/acl.h),
 * version 2 where a program asks for it (include/uapi/linux/posix_acl_xattr.h), which is what Btrfs keeps.
 */
final class PosixAccessList
{
    /** Of an entry, by its tag: what it is for, and whether it is somebody's that a number tells. */
    private const TAGS = [
        0x01 => ['user', false], 0x02 => ['user', true], 0x04 => ['group', false], 0x08 => ['group', true],
        0x10 => ['mask', false], 0x20 => ['other', false],
    ];

    /** Bytes of an entry of XFS. */
    private const OF_XFS = 12;

    /** By numbers; null if it is none. */
    public static function text(string $bytes): ?string
    {
        $version = unpack('V', str_pad($bytes, 4, "\0"))[1] ?? 0;
        if ($version !== 1 && $version !== 2) {
            return null;
        }
        $lines = [];
        for ($at = 4; $at + 4 <= strlen($bytes); $at += $length) {
            ['tag' => $tag, 'mode' => $mode] = unpack('vtag/vmode', $bytes, $at) ?: ['tag' => 0, 'mode' => 0];
            $isNamed = self::TAGS[$tag][1] ?? false;
            $length = $isNamed || $version === 2 ? 8 : 4;
            if (! isset(self::TAGS[$tag]) || $at + $length > strlen($bytes)) {
                return null;
            }
            $lines[] = self::line($tag, $isNamed ? unpack('V', $bytes, $at + 4)[1] ?? 0 : 0, $mode);
        }

        return implode(',', $lines);
    }

    /** The same of XFS, which counts its entries and writes all numbers the other way round (the kernel's fs/xfs/libxfs/xfs_format.h). */
    public static function ofXfs(string $bytes): ?string
    {
        $count = unpack('N', str_pad($bytes, 4, "\0"))[1] ?? 0;
        $lines = [];
        for ($at = 4; count($lines) < $count; $at += self::OF_XFS) {
            $entry = $at + self::OF_XFS <= strlen($bytes) ? unpack('Ntag/Nid/nmode', $bytes, $at) : false;
            if ($entry === false || ! isset(self::TAGS[$entry['tag']])) {
                return null;
            }
            $lines[] = self::line($entry['tag'], $entry['id'], $entry['mode']);
        }

        return $lines === [] ? null : implode(',', $lines);
    }

    private static function line(int $tag, int $id, int $mode): string
    {
        [$for, $isNamed] = self::TAGS[$tag];
        $may = (($mode & 4) !== 0 ? 'r' : '-').(($mode & 2) !== 0 ? 'w' : '-').(($mode & 1) !== 0 ? 'x' : '-');

        return "$for:".($isNamed ? $id : '').":$may";
    }
}
