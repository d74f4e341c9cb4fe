<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * Proposes how the disks of a machine come onto those of another: the ones that they were, where those are there; else in their order.
 * Partitions keep their order and their places where they can; what is filled with files grows or shrinks with the disk, by what is in
 * use; what is brought byte by byte keeps its size.
 */
final class LayoutProposal
{
    /** Bytes to which beginnings are aligned: common practice, and what sfdisk(8) does. */
    public const GRAIN = 1 << 20;

    /** Bytes of the entries of a GUID partition table (UEFI specification 5.3.1: at least 16,384), before its header at the end. */
    public const ENTRIES = 16_384;

    /** The type of a partition with a loader for BIOS: the manual of GNU GRUB, "BIOS installation". */
    private const BIOS_BOOT = '21686148-6449-6E6F-744E-656564454649';

    /** As wipefs(8) calls it. */
    private const PART_OF_GROUP = 'LVM2_member';

    /** The last sector that a table in the first sector can name, and one. */
    private const SECTORS = 1 << 32;

    /** @var list<string> */
    private array $misfits = [];

    /** @var list<string> */
    private array $cautions = [];

    /** @var array<string, string> */
    private array $leftAlone = [];

    private readonly GroupProposal $groups;

    private function __construct(
        private readonly LayoutRecord $record,
        private readonly TargetMachine $machine,
        private readonly LayoutWish $wish,
    ) {
        $this->groups = new GroupProposal($record, $wish);
    }

    public static function of(LayoutRecord $record, TargetMachine $machine, LayoutWish $wish = new LayoutWish): LayoutPlan
    {
        $proposal = new self($record, $machine, $wish);
        $disks = [];
        foreach ($proposal->pairs() as [$was, $onto]) {
            $disks[] = new PlannedDisk($was, $onto, $proposal->partitions($was, $onto));
        }
        $groups = $proposal->groups->groups($disks);
        array_push($proposal->misfits, ...$proposal->groups->misfits);
        $proposal->lookAtStart($disks);
        $proposal->lookAtOtherGroups($groups, $disks);
        $disks !== [] || $proposal->misfits !== [] || $proposal->misfits[] = 'Nothing would be brought: every disk is left alone.';

        return new LayoutPlan($disks, $proposal->misfits, $proposal->cautions, $proposal->leftAlone, $groups);
    }

    /** @return list<array{RecordedDisk, TargetDisk}> */
    private function pairs(): array
    {
        $pairs = $taken = [];
        $free = [];
        foreach ($this->machine->open() as $disk) {
            $free[$disk->name] = $disk;
        }
        foreach (array_keys($this->wish->onto + array_flip($this->wish->without)) as $unknown) {
            $this->record->disk((string) $unknown) !== null || $this->misfits[] = "The set has no disk \"$unknown\".";
        }
        $this->lookAtSizes();
        foreach ([$this->said(...), self::same(...), self::next(...)] as $choose) {
            foreach ($this->record->disks as $was) {
                if (isset($taken[$was->name]) || in_array($was->name, $this->wish->without, true)) {
                    continue;
                }
                $onto = $choose($was, $free);
                if ($onto !== null) {
                    $pairs[] = [$was, $onto];
                    $taken[$was->name] = true;
                    unset($free[$onto->name]);
                }
            }
        }
        foreach ($this->record->disks as $was) {
            if (in_array($was->name, $this->wish->without, true)) {
                $this->leftAlone[$was->name] = 'it is not brought, as was said';
            } elseif (! isset($taken[$was->name])) {
                $this->misfits[] = "There is no disk left for {$was->name}: the machine has ".count($this->machine->open()).
                    ' that can be written to. Leave it away, or put another one in.';
            }
        }
        usort($pairs, fn (array $a, array $b): int => $this->order($a[0]) <=> $this->order($b[0]));

        return $pairs;
    }

    /** What was said of sizes must be of something. */
    private function lookAtSizes(): void
    {
        $known = [];
        foreach ($this->record->disks as $disk) {
            array_push($known, ...array_map($disk->key(...), $disk->partitions));
        }
        foreach ($this->record->groups as $group) {
            array_push($known, ...array_map($group->key(...), $group->volumes));
        }
        foreach (array_diff(array_map(strval(...), array_keys($this->wish->sizes)), $known) as $unknown) {
            [$disk, $number] = [...explode('.', $unknown, 2), ''];
            $this->misfits[] = $this->record->disk($disk) === null ? "The set has no \"$unknown\"." : "$disk has no partition $number.";
        }
    }

    private function order(RecordedDisk $disk): int
    {
        return (int) array_search($disk, $this->record->disks, true);
    }

    /** @param  array<string, TargetDisk>  $free */
    private function said(RecordedDisk $was, array $free): ?TargetDisk
    {
        $name = $this->wish->onto[$was->name] ?? null;
        if ($name !== null && ! isset($free[$name])) {
            $this->misfits[] = $this->machine->disk($name) === null
                ? "The machine has no disk \"$name\"."
                : "$name cannot be written to for {$was->name}: it is the medium, or another disk comes onto it.";
        }

        return $free[$name] ?? null;
    }

    /**
     * The disk that it was itself, whatever it is called now.
     *
     * @param  array<string, TargetDisk>  $free
     */
    private static function same(RecordedDisk $was, array $free): ?TargetDisk
    {
        $same = array_values(array_filter($free, fn (TargetDisk $disk): bool => $was->id !== '' && strcasecmp($disk->id, $was->id) === 0));

        return count($same) === 1 ? $same[0] : null;
    }

    /** @param  array<string, TargetDisk>  $free */
    private static function next(RecordedDisk $was, array $free): ?TargetDisk
    {
        return array_values($free)[0] ?? null;
    }

    /** @return list<PlannedPartition> */
    private function partitions(RecordedDisk $was, TargetDisk $onto): array
    {
        $this->lookAtSectors($was, $onto);
        $grain = max(self::GRAIN, $onto->sector);
        // Where growing would move what then no longer fits, nothing grows.
        foreach ([[true, true], [false, true], [true, false]] as [$withGaps, $mayGrow]) {
            [$planned, $over] = $this->laid($was, $onto, $grain, $withGaps, $mayGrow);
            if ($over <= 0) {
                break;
            }
        }
        if ($over > 0) {
            $this->misfits[] = "{$was->name} does not fit onto {$onto->name}: it lacks ".number_format($over).' bytes.';
        }
        $this->lookAtLoader($was, $planned);

        return $planned;
    }

    /**
     * One behind the other.
     *
     * @param  bool  $withGaps  whether room between partitions is left as it was, as long as nothing before it changed
     * @return array{list<PlannedPartition>, int} and how many bytes it lacks
     */
    private function laid(RecordedDisk $was, TargetDisk $onto, int $grain, bool $withGaps, bool $mayGrow): array
    {
        $end = self::usableEnd($was, $onto);
        $starts = $this->starts($was, $onto, $grain, $withGaps);
        [$sizes, $over] = $this->sizes($was, $onto, $grain, $end - $starts['lost'], $mayGrow);
        $planned = [];
        $at = 0;
        $isAsItWas = true;
        foreach ($was->partitions as $i => $one) {
            $from = $i === 0 ? $starts['first'] : Shares::up($at, $grain) + ($was->isLogical($one) ? $grain : 0);
            $mayStay = $isAsItWas && $withGaps && $one->start % $onto->sector === 0;
            $from = $mayStay && $one->start >= $at ? $one->start : $from;
            $planned[] = new PlannedPartition($one, $from, $sizes[$i], $this->needs($was, $one));
            $isAsItWas = $isAsItWas && $from === $one->start && $sizes[$i] === $one->bytes;
            $at = $from + $sizes[$i];
        }

        return [$planned, max($over, $at - $end)];
    }

    /** @return array{first: int, lost: int} where the first begins, and the bytes that no partition can have */
    private function starts(RecordedDisk $was, TargetDisk $onto, int $grain, bool $withGaps): array
    {
        $first = $was->partitions[0] ?? null;
        if ($first === null || $was->table === '') {
            return ['first' => 0, 'lost' => 0];
        }
        $isEven = $first->start % $onto->sector === 0;
        $from = $isEven && ($withGaps || $first->start <= $grain) ? $first->start : $grain + ($was->isLogical($first) ? $grain : 0);
        $sizes = array_map(fn (RecordedPartition $one): int => Shares::up($one->bytes, $grain), $was->partitions);
        if ($withGaps) {
            return ['first' => $from, 'lost' => $was->partitions[count($sizes) - 1]->start - (int) array_sum(array_slice($sizes, 0, -1))];
        }
        $lost = match (true) {
            count($sizes) === 1 => $from,
            $first->content->kind->mayResize() => Shares::up($from, $grain),
            default => Shares::up($from + $first->bytes, $grain) - $sizes[0],
        };
        $logical = array_filter(array_slice($was->partitions, 1), $was->isLogical(...));

        return ['first' => $from, 'lost' => $lost + count($logical) * $grain];
    }

    /**
     * @param  int  $room  bytes for all of them
     * @return array{list<int>, int} bytes of each, and how many they lack
     */
    private function sizes(RecordedDisk $was, TargetDisk $onto, int $grain, int $room, bool $mayGrow): array
    {
        $sizes = $least = $weights = [];
        $last = count($was->partitions) - 1;
        foreach ($was->partitions as $i => $one) {
            $said = $this->wish->sizes["{$was->name}.{$one->number}"] ?? null;
            $isPart = $one->content->kind === ContentKind::Group;
            $sizes[$i] = Shares::up($said ?? ($isPart ? max($one->bytes, $this->needs($was, $one)) : $one->bytes), $onto->sector);
            $room -= Shares::up($sizes[$i], $i === $last ? $onto->sector : $grain);
            if ($said === null && $one->content->kind->mayResize()) {
                $least[$i] = $this->needs($was, $one);
                $weights[$i] = max(1, $one->content->used);
            }
        }
        if ($room < 0) {
            return Shares::shrunk($sizes, $least, $grain, -$room);
        }
        foreach ($mayGrow ? $weights : [] as $i => $weight) {
            $more = intdiv((int) ($room * ($weight / array_sum($weights))), $grain) * $grain;
            $sizes[$i] += $more === 0 ? 0 : Shares::up($sizes[$i], $grain) - $sizes[$i] + $more - ($i === $last ? $grain : 0);
        }

        return [$sizes, 0];
    }

    private function needs(RecordedDisk $was, RecordedPartition $one): int
    {
        $content = $one->content;
        $said = $this->wish->sizes["{$was->name}.{$one->number}"] ?? null;
        $needs = match (true) {
            $content->kind->isFilled() => min($one->bytes, self::leastOf($content)),
            $content->kind === ContentKind::Group => $this->groups->needs($was, $one),
            default => $one->bytes,
        };
        if ($said !== null && $said < $needs) {
            $misfit = "Partition {$one->number} of {$was->name} needs at least ".number_format($needs).' bytes.';
            in_array($misfit, $this->misfits, true) || $this->misfits[] = $misfit;
        }

        return $needs;
    }

    /** Bytes that what is filled with files must have at the least. */
    public static function leastOf(Content $content): int
    {
        $needs = $content->used + intdiv($content->used, 20) + $content->kind->spare();

        return Shares::up(max($needs, $content->kind->least()), self::GRAIN);
    }

    /** The byte behind the last that a partition may have. */
    private static function usableEnd(RecordedDisk $was, TargetDisk $onto): int
    {
        $sectors = intdiv($onto->bytes, $onto->sector);

        return $onto->sector * match ($was->table) {
            'gpt' => max(0, $sectors - 1 - intdiv(self::ENTRIES + $onto->sector - 1, $onto->sector)),
            'dos' => min($sectors, self::SECTORS),
            default => $sectors,
        };
    }

    /** Of a disk with larger sectors: what counts in smaller ones cannot be brought byte by byte. */
    private function lookAtSectors(RecordedDisk $was, TargetDisk $onto): void
    {
        foreach ($was->partitions as $one) {
            if (! $one->content->canLieOn($onto->sector)) {
                $this->misfits[] = "Partition {$one->number} of {$was->name} cannot come onto {$onto->name}, which has sectors of ".
                    "{$onto->sector} bytes: what lies on it counts in smaller ones.";
            }
        }
    }

    /** @param  list<PlannedPartition>  $planned */
    private function lookAtLoader(RecordedDisk $was, array $planned): void
    {
        foreach ($planned as $one) {
            if ($one->was->type === self::BIOS_BOOT && $one->isMoved()) {
                $this->cautions[] = "The loader of {$was->name} lies elsewhere than it did: by BIOS it may not start.";
            }
        }
    }

    /**
     * A group that stays on a disk which is left alone may be the same one.
     *
     * @param  list<PlannedGroup>  $groups
     * @param  list<PlannedDisk>  $disks
     */
    private function lookAtOtherGroups(array $groups, array $disks): void
    {
        $written = array_map(fn (PlannedDisk $disk): string => $disk->onto->name, $disks);
        foreach ($groups === [] ? [] : $this->machine->open() as $disk) {
            if (! in_array($disk->name, $written, true) && str_contains(implode(' ', $disk->marks), self::PART_OF_GROUP)) {
                $this->cautions[] = "{$disk->name}, which is left alone, holds a part of a volume group: if that is of the same one, ".
                    'the machine may take it for it. Take it out before it starts.';
            }
        }
    }

    /** @param  list<PlannedDisk>  $disks */
    private function lookAtStart(array $disks): void
    {
        $types = [];
        foreach ($disks as $disk) {
            array_push($types, ...array_map(fn (PlannedPartition $one): string => $one->was->type, $disk->partitions));
        }
        $code = array_filter($disks, fn (PlannedDisk $disk): bool => $disk->was->startsCode);
        if ($disks !== [] && $this->machine->firmware === 'bios' && $code === []) {
            $this->cautions[] = 'The machine starts by BIOS, and no disk that is brought has code to start in its first sector.';
        }
        if ($disks !== [] && $this->machine->firmware === 'uefi' && array_intersect($types, RecordedPartition::EFI_SYSTEM) === []) {
            $this->cautions[] = 'The machine starts by UEFI, and no disk that is brought has an EFI system partition.';
        }
    }
}
