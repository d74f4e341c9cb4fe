<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** The rule by sets: a point is usable when each set of its chain has a copy that can, and may, be read. */
final class ReadableChains
{
    /** @var array<array-key, BackupSet|false> id => the lowest set on the way down that cannot be read; false for none */
    private array $lowest = [];

    public function __construct(private readonly ChainGraph $graph, private readonly CopyRule $rule = new CopyRule)
    {
    }

    /** Why the point of a set cannot be given back; null if it can. */
    public function because(BackupSet $set): ?string
    {
        $blockage = $this->graph->blockageOf($set->id);
        if ($blockage !== null) {
            return $blockage->because;
        }
        $piece = $this->lowestUnreadable($set->id);
        if ($piece === null) {
            return null;
        }
        $avoided = $piece->readableCopies() !== [];

        return match (true) {
            $piece->id === $set->id => $avoided ? 'its only readable copies were to be avoided' : 'no copy of it can be read',
            $avoided => "the only readable copies of {$piece->id}, on which it rests, were to be avoided",
            default => "no copy of {$piece->id}, on which it rests, can be read",
        };
    }

    /** The set nearest to the full that cannot be read, of those a point rests on and itself. Its way down must be free. */
    public function lowestUnreadable(string $id): ?BackupSet
    {
        $path = [];
        for ($at = $id; $at !== null && ! isset($this->lowest[$at]); $at = $this->graph->baseOf($at)) {
            $path[] = $at;
        }
        $below = $at === null ? false : $this->lowest[$at];
        foreach (array_reverse($path) as $passed) {
            if ($below === false) {
                $set = $this->graph->set($passed);
                $below = $set !== null && $this->rule->readable($set) === [] ? $set : false;
            }
            $this->lowest[$passed] = $below;
        }

        return $below === false ? null : $below;
    }
}
