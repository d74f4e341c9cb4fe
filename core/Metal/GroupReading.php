<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Volume\GroupVolume;
use Kaiseki\Core\Volume\LogicalVolume;
use Kaiseki\Core\Volume\LogicalVolumes;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\UnreadableVolume;
use Kaiseki\Core\Volume\VolumeGroup;

/**
 * Reads off disks which volume groups lie on them. One of which a part is on none of them, or of which nobody could say what lies on a
 * volume, is not made anew: its parts come as whatever else does.
 */
final class GroupReading
{
    /** @var array<string, PhysicalVolume> partition => what it says */
    private array $parts = [];

    /** @var array<string, RecordedDisk> */
    private array $disks = [];

    /** @var list<RecordedGroup> */
    private array $groups = [];

    private function __construct()
    {
    }

    /**
     * @param  iterable<array-key, Disk>  $disks  by name
     */
    public static function of(iterable $disks): LayoutRecord
    {
        $reading = new self;
        foreach ($disks as $name => $disk) {
            $reading->look($disk, LayoutReading::ofDisk((string) $name, $disk));
        }
        $logical = LogicalVolumes::of(array_values($reading->parts));

        return $reading->record(function (string $group, GroupVolume $volume) use ($logical): ?Content {
            $disk = $logical["$group-{$volume->name}"] ?? null;

            return $disk instanceof LogicalVolume ? LayoutReading::content($disk) : null;
        });
    }

    /**
     * Of disks of which only the beginnings are there.
     *
     * @param  list<array{Disk, RecordedDisk}>  $disks
     * @param  callable(string, GroupVolume): ?Content  $content  what lies on a volume of a group; null if nobody knows
     *
     * @throws UnfitLayout if two are of one name
     */
    public static function with(array $disks, callable $content, string $firmware): LayoutRecord
    {
        $reading = new self;
        foreach ($disks as [$disk, $recorded]) {
            $reading->look($disk, $recorded);
        }

        return $reading->record($content, $firmware);
    }

    private function look(Disk $disk, RecordedDisk $recorded): void
    {
        ! isset($this->disks[$recorded->name]) || throw UnfitLayout::at('disks', 'must be of different names.');
        $this->disks[$recorded->name] = $recorded;
        $numbers = [];
        foreach ($recorded->partitions as $one) {
            $one->content->type !== LayoutReading::LVM || $numbers[$one->number] = $recorded->key($one);
        }
        foreach ($numbers === [] ? [] : PartitionTable::of($disk) as $partition) {
            isset($numbers[$partition->number]) && $this->part($numbers[$partition->number], $partition);
        }
    }

    private function part(string $key, Partition $partition): void
    {
        try {
            $physical = PhysicalVolume::on($partition);
            $physical === null || $this->parts[$key] = $physical;
        } catch (UnreadableVolume) {
            return; // byte by byte, then
        }
    }

    /** @param  callable(string, GroupVolume): ?Content  $content */
    private function record(callable $content, string $firmware = ''): LayoutRecord
    {
        $keys = [];
        foreach ($this->parts as $key => $part) {
            $keys[$part->id] = $key;
        }
        foreach (VolumeGroup::among(array_values($this->parts)) as $group) {
            $contents = [];
            foreach ($group->volumes as $volume) {
                $known = $content($group->name, $volume);
                $known === null || $contents[$volume->name] = $known;
            }
            $isWhole = array_diff($group->parts, array_map(strval(...), array_keys($keys))) === [] && count($keys) === count($this->parts);
            if ($isWhole && count($contents) === count($group->volumes) && preg_match(Content::LVM_ID, $group->id) === 1) {
                $this->group($group, $contents, $keys);
            }
        }

        return LayoutRecord::startingFirst(array_values($this->disks), $firmware, $this->groups);
    }

    /**
     * @param  array<array-key, Content>  $contents  by volume
     * @param  array<array-key, string>  $keys  id of a part => partition
     */
    private function group(VolumeGroup $group, array $contents, array $keys): void
    {
        $parts = array_map(fn (string $id): string => $keys[$id], $group->parts);
        $this->groups[] = new RecordedGroup($group->name, $group->id, $group->extent, $parts, array_map(
            fn (GroupVolume $one): RecordedVolume => new RecordedVolume($one->name, $one->id, $one->bytes, $contents[$one->name], array_map(
                fn ($piece): RecordedPiece => RecordedPiece::of($piece, $keys),
                $one->pieces,
            )),
            $group->volumes,
        ));
        foreach ($group->parts as $id) {
            foreach ($this->disks as $name => $disk) {
                $this->disks[$name] = $disk->with($keys[$id], new Content(
                    ContentKind::Group,
                    LayoutReading::LVM,
                    VolumeGroup::dashed($id),
                    $group->name,
                    $group->takenOf($id),
                ));
            }
        }
    }
}
