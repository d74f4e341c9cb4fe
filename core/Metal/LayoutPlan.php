<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** How the disks of a machine come onto those of another. */
final readonly class LayoutPlan
{
    /**
     * @param  list<PlannedDisk>  $disks
     * @param  list<string>  $misfits  why it cannot be, in sentences; with any of them nothing is written
     * @param  list<string>  $cautions  what may not go well, in sentences
     * @param  array<string, string>  $leftAlone  disk as it was called => why it is not brought
     * @param  list<PlannedGroup>  $groups
     */
    public function __construct(
        public array $disks,
        public array $misfits,
        public array $cautions,
        public array $leftAlone,
        public array $groups = [],
    ) {
    }

    /** @return list<Place> all that something comes onto: partitions, disk by disk, then volumes of groups */
    public function places(): array
    {
        $places = [];
        foreach ($this->disks as $disk) {
            foreach ($disk->partitions as $one) {
                $places[] = Place::onDisk($disk, $one);
            }
        }
        foreach ($this->groups as $group) {
            foreach ($group->volumes as $volume) {
                $places[] = Place::inGroup($group, $volume);
            }
        }

        return $places;
    }

    /** Bytes of contents that come, before they are packed. */
    public function used(): int
    {
        $parts = fn (Place $one): int => $one->content->kind === ContentKind::Group ? 0 : $one->content->used;

        return (int) array_sum(array_map($parts, $this->places()));
    }

    /** @return array{PlannedGroup, GroupPart}|null of a partition that is a part of one */
    public function part(string $key): ?array
    {
        foreach ($this->groups as $group) {
            foreach ($group->parts as $part) {
                if ($part->disk->was->key($part->partition->was) === $key) {
                    return [$group, $part];
                }
            }
        }

        return null;
    }
}
