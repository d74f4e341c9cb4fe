<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * Proposes how volume groups come onto partitions that were laid out for them: volumes keep their sizes, what is filled with files is made
 * smaller where they do not fit, and what is left over is free in the group, as it was. Each is laid one behind the other.
 */
final class GroupProposal
{
    /** @var list<string> */
    public array $misfits = [];

    public function __construct(private readonly LayoutRecord $record, private readonly LayoutWish $wish)
    {
    }

    /** Bytes that a partition must have on which a group lies: its share of what the volumes must have, by what it had room for. */
    public function needs(RecordedDisk $disk, RecordedPartition $one): int
    {
        $key = $disk->key($one);
        foreach ($this->record->groups as $group) {
            if (in_array($key, $group->parts, true)) {
                $least = array_sum(array_map(fn (RecordedVolume $volume): int => $this->least($group, $volume), $group->volumes));
                $room = max(1, $this->room($group));
                $extents = (int) ceil(intdiv($least, $group->extent) * self::extents($group, $one) / $room);
                $needs = PlannedGroup::HEAD + max(1, $extents) * $group->extent;
                $even = Shares::up($needs, LayoutProposal::GRAIN);

                return $needs <= $one->bytes ? min($even, $one->bytes) : $even;
            }
        }

        return $one->bytes;
    }

    /** Extents of all of its parts. */
    private function room(RecordedGroup $group): int
    {
        $extents = 0;
        foreach ($this->record->disks as $disk) {
            foreach ($disk->partitions as $one) {
                $extents += in_array($disk->key($one), $group->parts, true) ? self::extents($group, $one) : 0;
            }
        }

        return $extents;
    }

    private static function extents(RecordedGroup $group, RecordedPartition $one): int
    {
        return PlannedGroup::extentsOf($one->bytes, $group->extent);
    }

    /** Bytes that a volume must have: what was said, or what it can be made with. */
    private function least(RecordedGroup $group, RecordedVolume $volume): int
    {
        return Shares::up($this->wish->sizes[$group->key($volume)] ?? self::needsOf($volume), $group->extent);
    }

    private static function needsOf(RecordedVolume $volume): int
    {
        return $volume->content->kind->isFilled()
            ? min($volume->bytes, LayoutProposal::leastOf($volume->content))
            : $volume->bytes;
    }

    /**
     * @param  list<PlannedDisk>  $disks
     * @return list<PlannedGroup>
     */
    public function groups(array $disks): array
    {
        $groups = [];
        foreach ($this->record->groups as $group) {
            $parts = self::parts($group, $disks);
            if (count($parts) === count($group->parts)) {
                $groups[] = $this->group($group, $parts);
            } elseif ($parts !== []) {
                $away = implode(', ', array_diff($group->parts, array_keys($parts)));
                $this->misfits[] = "The volume group {$group->name} lies on $away too, which is not brought: bring all of it, or nothing.";
            }
        }

        return $groups;
    }

    /**
     * @param  list<PlannedDisk>  $disks
     * @return array<string, GroupPart>
     */
    private static function parts(RecordedGroup $group, array $disks): array
    {
        $found = [];
        foreach ($disks as $disk) {
            foreach ($disk->partitions as $one) {
                $found[$disk->was->key($one->was)] = new GroupPart($disk, $one);
            }
        }
        $parts = [];
        foreach ($group->parts as $key) {
            isset($found[$key]) && $parts[$key] = $found[$key];
        }

        return $parts;
    }

    /** @param  array<string, GroupPart>  $parts */
    private function group(RecordedGroup $group, array $parts): PlannedGroup
    {
        $parts = array_values($parts);
        $sizes = $least = [];
        foreach ($group->volumes as $i => $volume) {
            $key = $group->key($volume);
            $said = $this->wish->sizes[$key] ?? null;
            $sizes[$i] = Shares::up($said ?? $volume->bytes, $group->extent);
            $needs = Shares::up(self::needsOf($volume), $group->extent);
            $said !== null || ! $volume->content->kind->isFilled() || $least[$i] = $needs;
            $said === null || $said >= self::needsOf($volume)
                || $this->misfits[] = "The volume $key needs at least ".number_format(self::needsOf($volume)).' bytes.';
        }
        $room = (new PlannedGroup($group, $parts, []))->bytes();
        $lacks = (int) array_sum($sizes) - $room;
        [$sizes, $over] = $lacks > 0 ? Shares::shrunk($sizes, $least, $group->extent, $lacks) : [$sizes, 0];
        $over <= 0 || $this->misfits[] = "The volume group {$group->name} does not fit: it lacks ".number_format($over).' bytes.';
        foreach ($parts as $part) {
            $this->lookAtSectors($group, $part->disk->onto);
        }

        return new PlannedGroup($group, $parts, $this->laid($group, $parts, $sizes));
    }

    /**
     * @param  list<GroupPart>  $parts
     * @param  array<int, int>  $sizes  bytes
     * @return list<PlannedVolume>
     */
    private function laid(RecordedGroup $group, array $parts, array $sizes): array
    {
        $free = array_map(fn (GroupPart $one): array => [0, $one->extents($group->extent)], $parts);
        $volumes = [];
        foreach ($group->volumes as $i => $volume) {
            $pieces = [];
            $left = intdiv($sizes[$i], $group->extent);
            // In one piece where it can be.
            $fits = array_filter($free, fn (array $room): bool => $room[1] >= $left);
            foreach (array_keys($fits === [] ? $free : array_slice($fits, 0, 1, true)) as $part) {
                $taken = min($left, $free[$part][1]);
                if ($taken > 0) {
                    $pieces[] = new GroupPiece($part, $free[$part][0], $taken);
                    $free[$part] = [$free[$part][0] + $taken, $free[$part][1] - $taken];
                    $left -= $taken;
                }
            }
            $volumes[] = new PlannedVolume($volume, $sizes[$i], self::needsOf($volume), $pieces);
        }

        return $volumes;
    }

    /** Of a disk with larger sectors: what counts in smaller ones cannot lie on it. */
    private function lookAtSectors(RecordedGroup $group, TargetDisk $onto): void
    {
        foreach ($group->volumes as $volume) {
            $this->misfits = $volume->content->canLieOn($onto->sector) ? $this->misfits : array_values(array_unique([...$this->misfits,
                "The volume {$group->key($volume)} cannot come onto {$onto->name}, which has sectors of {$onto->sector} bytes: ".
                    'what lies on it counts in smaller ones.']));
        }
    }
}
