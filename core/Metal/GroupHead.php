<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\VolumeGroup;

/**
 * The first mebibyte of a part of a volume group: its label, and the area in which what it says of the group stands (lvm2, format_text of
 * version 2; pvck(8) --dump headers names each field).
 */
final class GroupHead
{
    private const SECTOR = 512;

    /** Bytes of the area of metadata, behind the label's page. */
    private const AREA = [4096, PlannedGroup::HEAD - 4096];

    /** The label has a second list behind it, version 2, by which LVM knows that the part is of a group. */
    private const EXTENSION = [2, 1];

    /** @param  string  $text  of the group */
    public static function bytes(GroupPart $part, string $text): string
    {
        return str_pad(
            str_pad(str_repeat("\0", self::SECTOR).self::label($part), self::AREA[0], "\0").self::area($text),
            PlannedGroup::HEAD,
            "\0",
        );
    }

    private static function label(GroupPart $part): string
    {
        $lists = pack('P*', PlannedGroup::HEAD, 0, 0, 0, ...self::AREA).pack('P*', 0, 0).pack('V*', ...self::EXTENSION).pack('P*', 0, 0);
        $summed = pack('V', 32).'LVM2 001'.VolumeGroup::plain($part->id()).pack('P', $part->partition->bytes).$lists;
        $summed = str_pad($summed, self::SECTOR - 20, "\0");

        return 'LABELONE'.pack('P', 1).pack('V', PhysicalVolume::sum($summed)).$summed;
    }

    private static function area(string $text): string
    {
        $place = pack('PPVV', self::SECTOR, strlen($text), PhysicalVolume::sum($text), 0);
        $summed = str_pad(PhysicalVolume::MAGIC.pack('VPP', 1, ...self::AREA).$place, self::SECTOR - 4, "\0");

        return pack('V', PhysicalVolume::sum($summed)).$summed.$text;
    }
}
