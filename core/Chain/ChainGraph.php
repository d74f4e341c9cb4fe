<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/**
 * The sets of a workload and what each rests on. Where no base is recorded it is assumed: a differential's is the last
 * full before it, an increment's the last set before it of any level but log, a level-n set's the most recent earlier
 * set of a lower level (dump(8): "a level number n dumps all files new or modified since the last dump of a lower
 * level"), a log's the last set before it. A snapshot rests on nothing, and nothing rests on it.
 */
final class ChainGraph
{
    /** @var array<array-key, BackupSet> by id, oldest first */
    private array $sets = [];

    /** @var list<BackupSet>|null */
    private ?array $list = null;

    /** @var array<array-key, string|null> id => id of its base */
    private array $bases = [];

    /** @var array<array-key, bool> */
    private array $assumed = [];

    /** @var array<array-key, Blockage|true> what is known of the way down from a set: blocked, or free */
    private array $ways = [];

    /** @param  iterable<BackupSet>  $sets in any order */
    public function __construct(iterable $sets)
    {
        $list = is_array($sets) ? array_values($sets) : iterator_to_array($sets, false);
        $previous = PHP_INT_MIN;
        $sorted = true;
        foreach ($list as $set) {
            $sorted = $sorted && $set->capturedAt->microseconds > $previous;
            $previous = $set->capturedAt->microseconds;
        }
        if (! $sorted) {
            usort(
                $list,
                fn (BackupSet $a, BackupSet $b): int => $a->capturedAt->microseconds <=> $b->capturedAt->microseconds ?:
                strcmp($a->id, $b->id),
            );
        }
        foreach ($list as $set) {
            $this->sets[$set->id] = $set;
        }
        $this->settleBases();
    }

    /** @return list<BackupSet> oldest first */
    public function sets(): array
    {
        return $this->list ??= array_values($this->sets);
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
        $blockage = $this->blockageOf($id);
        if ($blockage !== null) {
            return $blockage;
        }
        $sets = [];
        for ($at = $id; $at !== null; $at = $this->bases[$at]) {
            $sets[] = $this->sets[$at];
        }

        return new Chain(array_reverse($sets), $this->restsOnAssumed($id));
    }

    /** Whether a base on the way down from a set was assumed, not recorded. */
    public function restsOnAssumed(string $id): bool
    {
        $path = [];
        for (
            $at = $id;
            $at !== null && isset($this->sets[$at]) && ! isset($this->assumed[$at]) && ! isset($path[$at]);
            $at = $this->bases[$at]
        ) {
            $path[$at] = true;
        }
        $below = $at !== null && ($this->assumed[$at] ?? false);
        foreach (array_reverse(array_keys($path)) as $passed) {
            $set = $this->sets[$passed];
            $this->assumed[$passed] = $below =
                $below || (! $set->level->needsNoBase() && $set->base === null && $this->bases[$passed] !== null);
        }

        return $this->assumed[$id] ?? false;
    }

    /** Why there is no chain from the set down to a full; null if there is one. */
    public function blockageOf(string $id): ?Blockage
    {
        // Down to what is known already, then up again, so that a chain of thousands needs no recursion.
        $path = [];
        for ($at = $id; ! isset($this->ways[$at]);) {
            $path[$at] = true;
            $next = $this->below($at);
            if ($next instanceof Blockage || $next === null) {
                $this->ways[$at] = $next ?? true;
                break;
            }
            if (isset($path[$next])) {
                $this->ways[$at] = new Blockage("the recorded bases go round in a circle at $next");
                break;
            }
            $at = $next;
        }
        foreach ($path as $passed => $true) {
            $this->ways[$passed] = $this->ways[$at];
        }

        return $this->ways[$id] === true ? null : $this->ways[$id];
    }

    /** The base of a set, if that is one it can rest on; null if it needs none. */
    private function below(string $id): string|Blockage|null
    {
        $set = $this->sets[$id] ?? null;
        if ($set === null) {
            return new Blockage("the base $id is not here");
        }
        if ($set->level->needsNoBase()) {
            return null;
        }
        $base = $this->bases[$id];
        if ($base === null) {
            return new Blockage(
                $set->level->name === 'diff' ? "no full before {$set->id} is here" : "no set that {$set->id} could rest on is here",
            );
        }
        $below = $this->sets[$base] ?? null;

        return match (true) {
            $below === null => $base,
            $below->history !== $set->history => new Blockage("the base $base of {$set->id} belongs to another history of the source"),
            $below->level->isSnapshot() => new Blockage("the base $base of {$set->id} is a snapshot, on which nothing can rest"),
            $below->capturedAt->isAfter($set->capturedAt) => new Blockage("the base $base of {$set->id} is later than the set itself"),
            default => $base,
        };
    }

    private function settleBases(): void
    {
        /** @var array<string, LastSets> $last those of each history that are earlier than the one in hand */
        $last = [];
        /** @var list<BackupSet> $waiting sets of one instant, which do not come before each other */
        $waiting = [];
        $instant = null;
        foreach ($this->sets as $set) {
            if ($set->capturedAt->microseconds !== $instant) {
                foreach ($waiting as $other) {
                    ($last[$other->history] ??= new LastSets)->add($other->id, $other->level);
                }
                $waiting = [];
                $instant = $set->capturedAt->microseconds;
            }
            $this->bases[$set->id] = $set->level->needsNoBase()
                ? null
                : $set->base ?? ($last[$set->history] ?? null)?->baseFor($set->level);
            $waiting[] = $set;
        }
    }
}
