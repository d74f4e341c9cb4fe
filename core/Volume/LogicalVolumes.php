<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/**
 * The logical volumes of the volume groups that lie on some disks: those that are made of plain pieces, one behind the other or in
 * stripes. Mirrors, snapshots and thin ones are named, and not read.
 */
final class LogicalVolumes
{
    private const MOST = 1000;

    private const SECTOR = 512;

    /**
     * @param  list<PhysicalVolume>  $on
     * @return array<array-key, LogicalVolume|UnreadableVolume> by name: GROUP-VOLUME; or why it cannot be read
     */
    public static function of(array $on): array
    {
        $groups = [];
        foreach ($on as $physical) {
            foreach ($physical->group as $name => $group) {
                if (is_array($group) && isset($group['physical_volumes'])) {
                    // Of what two disks say of one group the newer holds.
                    $known = $groups[$name] ?? null;
                    $groups[$name] = $known === null || self::number($group, 'seqno') > self::number($known, 'seqno') ? $group : $known;
                }
            }
        }
        $byId = array_column(array_map(fn (PhysicalVolume $one): array => [$one->id, $one], $on), 1, 0);
        $found = [];
        foreach ($groups as $name => $group) {
            foreach (array_slice((array) ($group['logical_volumes'] ?? []), 0, self::MOST) as $volume => $of) {
                $of = (array) $of;
                if (in_array('VISIBLE', (array) ($of['status'] ?? []), true)) {
                    try {
                        $found["$name-$volume"] = self::volume($group, $of, $byId);
                    } catch (UnreadableVolume $unreadable) {
                        $found["$name-$volume"] = $unreadable;
                    }
                }
            }
        }

        return $found;
    }

    /**
     * @param  array<mixed>  $group
     * @param  array<mixed>  $of
     * @param  array<array-key, PhysicalVolume>  $byId
     */
    private static function volume(array $group, array $of, array $byId): LogicalVolume
    {
        $extent = self::number($group, 'extent_size') * self::SECTOR;
        $pieces = [];
        $end = 0;
        for ($n = 1; $n <= min(self::MOST, self::number($of, 'segment_count')); $n++) {
            $segment = (array) ($of["segment$n"] ?? []);
            if (($segment['type'] ?? '') !== 'striped') {
                $type = mb_scrub(strval($segment['type'] ?? ''));
                throw UnreadableVolume::because("is a volume of LVM that is not made of plain pieces ($type)");
            }
            [$from, $length] = [self::number($segment, 'start_extent') * $extent, self::number($segment, 'extent_count') * $extent];
            if ($from !== $end || $length < 1) {
                throw UnreadableVolume::damaged('its pieces leave gaps');
            }
            $stripes = self::stripes($group, $segment, $extent, $byId);
            $size = self::number($segment, 'stripe_size') * self::SECTOR;
            $pieces[] = [$from, $length, count($stripes) > 1 ? max(self::SECTOR, $size) : $length, $stripes];
            $end = $from + $length;
        }

        return $pieces === [] ? throw UnreadableVolume::damaged('it has no piece') : new LogicalVolume($pieces, $end);
    }

    /**
     * @param  array<mixed>  $group
     * @param  array<mixed>  $segment
     * @param  array<array-key, PhysicalVolume>  $byId
     * @return non-empty-list<array{PhysicalVolume, int}> disk, and the byte of it that the stripe begins at
     */
    private static function stripes(array $group, array $segment, int $extent, array $byId): array
    {
        $told = array_values((array) ($segment['stripes'] ?? []));
        $stripes = [];
        for ($i = 0; $i + 1 < count($told); $i += 2) {
            $of = (array) (((array) ($group['physical_volumes'] ?? []))[(string) $told[$i]] ?? []);
            $id = str_replace('-', '', strval($of['id'] ?? ''));
            $disk = $byId[$id] ?? throw UnreadableVolume::because('is a volume of LVM of which a part lies on a disk that is not here');
            $stripes[] = [$disk, self::number($of, 'pe_start') * self::SECTOR + max(0, (int) $told[$i + 1]) * $extent];
        }
        if ($stripes === [] || count($stripes) !== self::number($segment, 'stripe_count')) {
            throw UnreadableVolume::damaged('its stripes are not those it counts');
        }

        return $stripes;
    }

    /** @param  array<mixed>  $of */
    private static function number(array $of, string $name): int
    {
        $value = $of[$name] ?? 0;

        return is_int($value) && $value >= 0 && $value < 1 << 40 ? $value : throw UnreadableVolume::damaged("its $name is none");
    }
}
