<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Volume\FileSystems;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\UnreadableVolume;

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

    /**
     * @param  array<int, VolumeUse>  $uses  what is known of file systems that were mounted, by the numbers of their partitions
     */
    public static function ofDisk(string $name, Disk $disk, array $uses = []): RecordedDisk
    {
        [$table, $id] = PartitionTable::nameOf($disk);
        $partitions = array_map(fn (Partition $one): RecordedPartition => new RecordedPartition(
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

    private static function content(Partition $on, ?VolumeUse $use): Content
    {
        $start = $on->read(0, 8192);

        return self::swap($start) ?? self::ext($on, $start, $use) ?? self::other($on);
    }

    /** mkswap(8): the name at the end of the first page, and in its header a version at 1024, a number at 1036, a label at 1052. */
    private static function swap(string $start): ?Content
    {
        if (substr($start, 4086, 10) !== 'SWAPSPACE2' || (unpack('V', $start, 1024)[1] ?? 0) !== 1) {
            return null;
        }

        return new Content(ContentKind::Swap, 'swap', self::uuid(substr($start, 1036, 16)), rtrim(substr($start, 1052, 16), "\0"));
    }

    private static function ext(Partition $on, string $start, ?VolumeUse $use): ?Content
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

    private static function isReadable(Partition $on): bool
    {
        try {
            return FileSystems::on($on) !== null;
        } catch (UnreadableVolume) {
            return false;
        }
    }

    private static function other(Partition $on): Content
    {
        try {
            $files = FileSystems::on($on);
        } catch (UnreadableVolume) {
            $files = null;
        }
        if ($files !== null) {
            return new Content(ContentKind::Image, $files->type(), '', $files->label(), $on->size());
        }

        return new Content(ContentKind::Image, self::isOfGroup($on) ? 'LVM' : '', used: $on->size());
    }

    private static function isOfGroup(Partition $on): bool
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
