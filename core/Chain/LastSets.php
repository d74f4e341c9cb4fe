<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** The newest set of each level so far in one history: what the next one would be reckoned against. */
final class LastSets
{
    private ?string $any = null;

    private ?string $withoutLogs = null;

    /** @var array<int, array{int, string}> dump level => when it was added, id; fulls are level 0 */
    private array $dumps = [];

    private int $count = 0;

    /** Sets come in the order of their instants. */
    public function add(string $id, Level $level): void
    {
        if ($level->isSnapshot()) {
            return;
        }
        $this->count++;
        $this->any = $id;
        if (! $level->isLog()) {
            $this->withoutLogs = $id;
        }
        $dump = $level->dumpLevel();
        if ($dump !== null) {
            $this->dumps[$dump] = [$this->count, $id];
        }
    }

    /** The id of the base that a set of this level would have, had it been made now; null for none. */
    public function baseFor(Level $level): ?string
    {
        $own = $level->dumpLevel();

        return match (true) {
            $level->needsNoBase() => null,
            $level->isLog() => $this->any,
            $own !== null => $this->newestBelow($own),
            $level->name === 'diff' => $this->dumps[0][1] ?? null,
            default => $this->withoutLogs,
        };
    }

    private function newestBelow(int $level): ?string
    {
        $newest = [0, null];
        foreach ($this->dumps as $dump => $added) {
            if ($dump < $level && $added[0] > $newest[0]) {
                $newest = $added;
            }
        }

        return $newest[1];
    }
}
