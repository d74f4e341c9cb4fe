<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/**
 * The sets of a workload and what each rests on. Where no base is recorded it is assumed: a differential's is the last
 * full before it, an increment's the last set before it of any level but log, a level-n set's the most recent earlier
 * set of a lower level (dump(8): "a level number n dumps all files new or modified since the last dump of a lower
 * level"), a log's the last set before it.
 */
final class ChainGraph
{
    /** @var array<array-key, BackupSet> by id, oldest first */
    private array $sets = [];

    /** @var array<array-key, string|null> id => id of its base */
    private array $bases = [];

    /** @var array<array-key, Chain|Blockage> */
    private array $chains = [];

    /** @param  iterable<BackupSet>  $sets in any order */
    public function __construct(iterable $sets)
    {
        $list = [...$sets];
        usort($list, fn (BackupSet $a, BackupSet $b): int => [$a->capturedAt->microseconds, $a->id] <=> [$b->capturedAt->microseconds, $b->id]);
        foreach ($list as $set) {
            $this->sets[$set->id] = $set;
        }
        $this->settleBases();
    }

    /** @return list<BackupSet> oldest first */
    public function sets(): array
    {
        return array_values($this->sets);
    }

    public function set(string $id): ?BackupSet
    {
        return $this->sets[$id] ?? null;
    }

    /** The id of what the set was made against, recorded or assumed; null for a full, and where none can be assumed. */
    public function baseOf(string $id): ?string
    {
        return $this->bases[$id] ?? null;
    }

    /** The set, its base, and so on down to a full, in the order of applying; or why there is no such chain. */
    public function chainOf(string $id): Chain|Blockage
    {
        if (isset($this->chains[$id])) {
            return $this->chains[$id];
        }
        // Down to what is known already, then up again, so that a chain of thousands needs no recursion.
        $path = [];
        $seen = [];
        $blockage = null;
        for ($at = $id; ! isset($this->chains[$at]);) {
            $set = $this->sets[$at] ?? null;
            if ($set === null) {
                $blockage = new Blockage("the base $at is not here");
                break;
            }
            if (isset($seen[$at])) {
                $blockage = new Blockage("the recorded bases go round in a circle at $at");
                break;
            }
            $seen[$at] = true;
            $path[] = $set;
            if ($set->level->isFull()) {
                break;
            }
            $base = $this->bases[$at];
            if ($base === null) {
                $blockage = new Blockage($set->level->name === 'diff' ? "no full before {$set->id} is here" : "no set that {$set->id} could rest on is here");
                break;
            }
            $below = $this->sets[$base] ?? null;
            if ($below !== null && $below->history !== $set->history) {
                $blockage = new Blockage("the base $base of {$set->id} belongs to another history of the source");
                break;
            }
            if ($below !== null && $below->capturedAt->isAfter($set->capturedAt)) {
                $blockage = new Blockage("the base $base of {$set->id} is later than the set itself");
                break;
            }
            $at = $base;
        }
        $below = $blockage ?? $this->chains[$at] ?? null;
        foreach (array_reverse($path) as $set) {
            $below = match (true) {
                $below instanceof Blockage => $below,
                $below === null => new Chain([$set], false),
                default => new Chain([...$below->sets, $set], $below->baseAssumed || $set->base === null),
            };
            $this->chains[$set->id] = $below;
        }

        return $this->chains[$id] ?? $below ?? new Blockage("$id is not here");
    }

    private function settleBases(): void
    {
        /** @var array<string, list<BackupSet>> $before those of each history that are earlier than the one in hand */
        $before = [];
        $waiting = [];
        foreach ($this->sets as $set) {
            // Sets of the same instant do not come before each other.
            $waiting = array_filter($waiting, function (BackupSet $other) use ($set, &$before): bool {
                if ($set->capturedAt->isAfter($other->capturedAt)) {
                    $before[$other->history][] = $other;

                    return false;
                }

                return true;
            });
            $this->bases[$set->id] = $set->level->isFull() ? null : ($set->base ?? self::assumed($set, $before[$set->history] ?? []));
            $waiting[] = $set;
        }
    }

    /** @param  list<BackupSet>  $before oldest first */
    private static function assumed(BackupSet $set, array $before): ?string
    {
        $own = $set->level->dumpLevel();
        for ($i = count($before) - 1; $i >= 0; $i--) {
            $candidate = $before[$i]->level;
            $fits = match (true) {
                $set->level->isLog() => true,
                $candidate->isLog() => false,
                $own !== null => $candidate->dumpLevel() !== null && $candidate->dumpLevel() < $own,
                $set->level->name === 'diff' => $candidate->isFull(),
                default => true,
            };
            if ($fits) {
                return $before[$i]->id;
            }
        }

        return null;
    }
}
