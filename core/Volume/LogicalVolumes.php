<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/**
 * The logical volumes of the volume groups that lie on some disks: those that are made of plain pieces, one behind the other or in
 * stripes. Mirrors, snapshots and thin ones are named, and not read.
 */
final class LogicalVolumes
{
    /**
     * @param  list<PhysicalVolume>  $on
     * @return array<array-key, LogicalVolume|UnreadableVolume> by name: GROUP-VOLUME; or why it cannot be read
     */
    public static function of(array $on): array
    {
        $byId = array_column($on, null, 'id');
        $found = [];
        foreach (VolumeGroup::among($on) as $name => $group) {
            foreach ($group->volumes as $volume) {
                try {
                    $found["$name-{$volume->name}"] = self::volume($volume, $byId);
                } catch (UnreadableVolume $unreadable) {
                    $found["$name-{$volume->name}"] = $unreadable;
                }
            }
        }

        return $found;
    }

    /**
     * @param  array<array-key, PhysicalVolume>  $byId
     *
     * @throws UnreadableVolume
     */
    private static function volume(GroupVolume $volume, array $byId): LogicalVolume
    {
        $volume->flaw === null || throw $volume->flaw;
        $pieces = [];
        $from = 0;
        foreach ($volume->pieces as $piece) {
            $stripes = array_map(fn (array $stripe): array => [
                $byId[$stripe[0]] ?? throw UnreadableVolume::because('is a volume of LVM of which a part lies on a disk that is not here'),
                $stripe[1],
            ], $piece->stripes);
            $pieces[] = [$from, $piece->bytes, $piece->width, $stripes];
            $from += $piece->bytes;
        }

        return $pieces === [] ? throw UnreadableVolume::damaged('it has no piece') : new LogicalVolume($pieces, $from);
    }
}
