<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/**
 * An access list as acl(5) writes it, out of the bytes in which Linux keeps it: version 1 on a disk with ext (the kernel's fs/ext4/acl.h),
 * version 2 where a program asks for it (include/uapi/linux/posix_acl_xattr.h).
 */
final class PosixAccessList
{
    /** Of an entry, by its tag: what it is for, and whether it is somebody's that a number tells. */
    private const TAGS = [
        0x01 => ['user', false], 0x02 => ['user', true], 0x04 => ['group', false], 0x08 => ['group', true],
        0x10 => ['mask', false], 0x20 => ['other', false],
    ];

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
            [$for, $isNamed] = self::TAGS[$tag] ?? ['', false];
            $length = $isNamed || $version === 2 ? 8 : 4;
            if ($for === '' || $at + $length > strlen($bytes)) {
                return null;
            }
            $id = $isNamed ? (string) (unpack('V', $bytes, $at + 4)[1] ?? 0) : '';
            $may = (($mode & 4) !== 0 ? 'r' : '-').(($mode & 2) !== 0 ? 'w' : '-').(($mode & 1) !== 0 ? 'x' : '-');
            $lines[] = "$for:$id:$may";
        }

        return implode(',', $lines);
    }
}
