<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Volume\FileSystems;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\UnreadableVolume;
use Kaiseki\Core\Volume\Xfs;

/** Reads off a disk how it is laid out. */
final class LayoutReading
{
    /** Bytes of the first sector that are code; what follows is a table. */
    public const CODE = 440;

    /**
     * Names of features of ext, by the bits of its three fields: "The Super Block" of the Linux kernel's documentation of ext4, as
     * mke2fs(8) and ext4(5) call them. Those that say in which state it is are left away.
     */
    private const FEATURES = [
        'compatible' => [0x4 => 'has_journal', 0x8 => 'ext_attr', 0x10 => 'resize_inode', 0x20 => 'dir_index', 0x200 => 'sparse_super2',
            0x800 => 'stable_inodes', 0x1000 => 'orphan_file'],
        'incompatible' => [0x2 => 'filetype', 0x10 => 'meta_bg', 0x40 => 'extent', 0x80 => '64bit', 0x100 => 'mmp', 0x200 => 'flex_bg',
            0x400 => 'ea_inode', 0x2000 => 'metadata_csum_seed', 0x4000 => 'large_dir', 0x8000 => 'inline_data', 0x10000 => 'encrypt',
            0x20000 => 'casefold'],
        'readOnly' => [0x1 => 'sparse_super', 0x2 => 'large_file', 0x8 => 'huge_file', 0x10 => 'uninit_bg', 0x20 => 'dir_nlink',
            0x40 => 'extra_isize', 0x100 => 'quota', 0x200 => 'bigalloc', 0x400 => 'metadata_csum', 0x2000 => 'project',
            0x8000 => 'verity'],
    ];

    /** Of which ext2 and ext3 have none. */
    private const OF_EXT4 = ['extent', '64bit'];

    /** Whose contents are not to be had by copying its files. */
    private const ONLY_AS_IMAGE = ['encrypt', 'casefold', 'verity', 'bigalloc', 'mmp'];

    /** What a part of a volume group is called. */
    public const LVM = 'LVM';

    private const XFS_BLOCKS = [512, 1024, 2048, 4096, 8192, 16_384, 32_768, 65_536];

    /** XFS of version 4 with kinds in its folders: a bit of its second features. */
    private const XFS_4_TYPES = 0x200;

    /** That its number was changed later says nothing of how it is laid out. */
    private const XFS_OWN_NUMBER = 'meta_uuid';

    /** Features of XFS of version 5, as mkfs.xfs(8) names them, by the bits of the kernel's xfs_format.h. */
    private const XFS_FEATURES = [
        'readOnly' => [0x1 => 'finobt', 0x2 => 'rmapbt', 0x4 => 'reflink', 0x8 => 'inobtcount'],
        'incompatible' => [0x1 => 'ftype', 0x2 => 'sparse', 0x4 => self::XFS_OWN_NUMBER, 0x8 => 'bigtime', 0x20 => 'nrext64'],
    ];

    /**
     * @param  array<int, VolumeUse>  $uses  what is known of file systems that were mounted, by the numbers of their partitions
     */
    public static function ofDisk(string $name, Disk $disk, array $uses = []): RecordedDisk
    {
        [$table, $id] = PartitionTable::nameOf($disk);
        $partitions = array_map(fn (Disk $one): RecordedPartition => new RecordedPartition(
            $one->number,
            $one->from,
            $one->size(),
            $one->type,
            $one->uuid,
            $one->name,
            $one->flags,
            self::content($one, $uses[$one->number] ?? null),
        ), PartitionTable::of($disk));
        usort($partitions, fn (RecordedPartition $a, RecordedPartition $b): int => $a->start <=> $b->start);
        $startsCode = $table !== '' && trim($disk->read(0, self::CODE), "\0") !== '';

        return new RecordedDisk($name, $disk->size(), $table, $id, $startsCode, $partitions);
    }

    /** What lies on a partition or a volume. */
    public static function content(Disk $on, ?VolumeUse $use = null): Content
    {
        $start = $on->read(0, 8192);

        return self::swap($start) ?? self::ext($on, $start, $use) ?? self::xfs($on, $start, $use) ?? self::other($on);
    }

    /** mkswap(8): the name at the end of the first page, and in its header a version at 1024, a number at 1036, a label at 1052. */
    private static function swap(string $start): ?Content
    {
        if (substr($start, 4086, 10) !== 'SWAPSPACE2' || (unpack('V', $start, 1024)[1] ?? 0) !== 1) {
            return null;
        }

        return new Content(ContentKind::Swap, 'swap', self::uuid(substr($start, 1036, 16)), rtrim(substr($start, 1052, 16), "\0"));
    }

    private static function ext(Disk $on, string $start, ?VolumeUse $use): ?Content
    {
        $super = substr($start, 1024, 1024);
        $fields = strlen($super) === 1024 ? unpack(
            'Vinodes/Vblocks/x4/Vfree/VfreeInodes/x4b/VlogSize/x28/vmagic/x18/Vrevision/x8/vinodeSize/x2/Vcompatible/Vincompatible/'.
                'VreadOnly/a16uuid/a16label/x200/VblocksHigh/x4c/VfreeHigh',
            $super,
        ) : false;
        if ($fields === false || $fields['magic'] !== 0xEF53 || $fields['logSize'] > 6) {
            return null;
        }
        $features = [];
        foreach (self::FEATURES as $field => $bits) {
            array_push($features, ...array_values(
                array_filter($bits, fn (int $bit): bool => ($fields[$field] & $bit) !== 0, ARRAY_FILTER_USE_KEY),
            ));
        }
        if (array_intersect($features, self::ONLY_AS_IMAGE) !== [] || ($use === null && ! self::isReadable($on))) {
            return null; // it can be brought byte by byte all the same
        }
        $isWide = in_array('64bit', $features, true);
        $block = 1024 << $fields['logSize'];
        $blocks = $fields['blocks'] + ($isWide ? $fields['blocksHigh'] << 32 : 0);
        $free = $fields['free'] + ($isWide ? $fields['freeHigh'] << 32 : 0);

        return new Content(
            ContentKind::Ext,
            match (true) {
                array_intersect(self::OF_EXT4, $features) !== [] => 'ext4',
                in_array('has_journal', $features, true) => 'ext3',
                default => 'ext2',
            },
            self::uuid($fields['uuid']),
            rtrim($fields['label'], "\0"),
            $use->used ?? max(0, $blocks - $free) * $block,
            $block,
            $fields['revision'] === 0 ? 128 : $fields['inodeSize'],
            $use->inodes ?? max(0, $fields['inodes'] - $fields['freeInodes']),
            $features,
        );
    }

    /**
     * One with its log elsewhere, with a part for real time, or with features that a medium may not know, comes byte by byte; and one that
     * was in use, of which only an image is there: what its log has still to do is done where it is mounted, and not where it is read.
     */
    private static function xfs(Disk $on, string $start, ?VolumeUse $use): ?Content
    {
        $fields = str_starts_with($start, 'XFSB') && strlen($start) >= 512 ? unpack(
            'x4/Nblock/Jblocks/JrealTime/x8/a16uuid/Jlog/x44/nversion/x2/ninode/x2/a12label/x8/Jinodes/JfreeInodes/Jfree/x48/Nfeatures2/'.
                'x8/NreadOnly/Nincompatible',
            $start,
        ) : false;
        if (
            $fields === false || $fields['realTime'] !== 0 || $fields['log'] === 0 ||
            ! in_array($fields['block'], self::XFS_BLOCKS, true) || ContentKind::Xfs->least() > $fields['blocks'] * $fields['block'] ||
            ($use === null && ! self::isClean($on))
        ) {
            return null;
        }
        $features = self::featuresOfXfs($fields);

        return $features === null ? null : new Content(
            ContentKind::Xfs,
            'XFS',
            self::uuid($fields['uuid']),
            rtrim($fields['label'], "\0"),
            $use->used ?? max(0, $fields['blocks'] - $fields['free']) * $fields['block'],
            $fields['block'],
            $fields['inode'],
            $use->inodes ?? max(0, $fields['inodes'] - $fields['freeInodes']),
            $features,
        );
    }

    /**
     * @param  array<string, mixed>  $fields
     * @return list<string>|null null if it has one that is not known
     */
    private static function featuresOfXfs(array $fields): ?array
    {
        if (($fields['version'] & 0xF) !== 5) {
            return ($fields['features2'] & self::XFS_4_TYPES) !== 0 ? ['ftype'] : [];
        }
        $features = ['crc'];
        foreach (self::XFS_FEATURES as $field => $bits) {
            if (($fields[$field] & ~array_sum(array_keys($bits))) !== 0) {
                return null;
            }
            $has = array_filter($bits, fn (int $bit): bool => ($fields[$field] & $bit) !== 0, ARRAY_FILTER_USE_KEY);
            array_push($features, ...array_values($has));
        }

        return array_values(array_diff($features, [self::XFS_OWN_NUMBER]));
    }

    private static function isClean(Disk $on): bool
    {
        try {
            return Xfs::on($on)?->isClean() === true;
        } catch (UnreadableVolume) {
            return false;
        }
    }

    private static function isReadable(Disk $on): bool
    {
        try {
            return FileSystems::on($on) !== null;
        } catch (UnreadableVolume) {
            return false;
        }
    }

    private static function other(Disk $on): Content
    {
        try {
            $files = FileSystems::on($on);
        } catch (UnreadableVolume) {
            $files = null;
        }
        if ($files !== null) {
            return new Content(ContentKind::Image, $files->type(), '', $files->label(), $on->size());
        }

        return new Content(ContentKind::Image, self::isOfGroup($on) ? self::LVM : '', used: $on->size());
    }

    private static function isOfGroup(Disk $on): bool
    {
        try {
            return PhysicalVolume::on($on) !== null;
        } catch (UnreadableVolume) {
            return false;
        }
    }

    private static function uuid(string $bytes): string
    {
        return trim($bytes, "\0") === '' ? '' : vsprintf('%s%s-%s-%s-%s-%s%s%s', str_split(bin2hex(str_pad($bytes, 16, "\0")), 4));
    }
}
