<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** By what a file system is told from others wherever it is found: the number that it was given when it was made, and where that stands. */
final readonly class VolumeMark
{
    /** Bytes from its beginning in which that stands. */
    public const BYTES = 65_536 + 128;

    /**
     * @param  int  $at  bytes from the beginning of the file system
     * @param  string  $bytes  that stand there
     */
    private function __construct(public int $at, public string $bytes)
    {
    }

    /** @return self|null null where none is known: another file system, or one without a number */
    public static function of(string $start): ?self
    {
        return self::ext($start) ?? self::xfs($start) ?? self::btrfs($start) ?? self::ntfs($start) ?? self::fat($start);
    }

    /** "Ext4 Disk Layout" of the Linux kernel's documentation: the super block at 1024, s_magic at 0x38, s_uuid at 0x68. */
    private static function ext(string $start): ?self
    {
        $uuid = substr($start, 1024 + 0x68, 16);
        $isExt = substr($start, 1024 + 0x38, 2) === "\x53\xef" && strlen($uuid) === 16;

        return $isExt && trim($uuid, "\0") !== '' ? new self(1024 + 0x68, $uuid) : null;
    }

    /** "XFS Algorithms & Data Structures", superblocks: sb_magicnum at 0, sb_uuid at 32. */
    private static function xfs(string $start): ?self
    {
        $uuid = substr($start, 32, 16);

        return str_starts_with($start, 'XFSB') && strlen($uuid) === 16 && trim($uuid, "\0") !== '' ? new self(32, $uuid) : null;
    }

    /** "On-disk Format" of Btrfs: the superblock at 64 KiB, fsid at 32 and magic at 64. */
    private static function btrfs(string $start): ?self
    {
        $fsid = substr($start, 65_536 + 32, 16);

        return substr($start, 65_536 + 64, 8) === '_BHRfS_M' && trim($fsid, "\0") !== '' ? new self(65_536 + 32, $fsid) : null;
    }

    /** The "NTFS Documentation" of the Linux-NTFS project, $Boot: the number of the volume, 8 bytes at 72. */
    private static function ntfs(string $start): ?self
    {
        $number = substr($start, 72, 8);

        return substr($start, 3, 8) === 'NTFS    ' && strlen($number) === 8 && trim($number, "\0") !== '' ? new self(72, $number) : null;
    }

    /**
     * Microsoft's "FAT32 File System Specification" 1.03: after BS_BootSig 0x29, at 38 or, of FAT32, at 66, stand BS_VolID (4 bytes),
     * BS_VolLab (11) and BS_FilSysType (8).
     */
    private static function fat(string $start): ?self
    {
        if (substr($start, 510, 2) !== "\x55\xaa") {
            return null;
        }
        foreach ([66, 38] as $signature) {
            $named = substr($start, $signature + 1, 4 + 11 + 8);
            if (substr($start, $signature, 1) === "\x29" && str_starts_with(substr($named, 4 + 11), 'FAT')) {
                return new self($signature + 1, $named);
            }
        }

        return null;
    }
}
