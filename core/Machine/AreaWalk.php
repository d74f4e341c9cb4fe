<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Generator;

/** Goes through the areas of a disk once, and tells for one stretch of blocks after the other which of them an area touches. */
final class AreaWalk
{
    /** @var Generator<array{int, int}> */
    private readonly Generator $areas;

    /** @param  iterable<array{int, int}>  $areas  bytes; in order */
    public function __construct(iterable $areas)
    {
        $this->areas = (fn () => yield from $areas)();
    }

    /**
     * @param  int  $behind  the block behind the last; the next stretch begins there
     * @return array<int, true>
     */
    public function blocks(int $first, int $behind): array
    {
        $touched = [];
        while ($this->areas->valid()) {
            [$from, $to] = $this->areas->current();
            $last = min($behind, intdiv($to + Blocks::BYTES - 1, Blocks::BYTES));
            for ($number = max($first, intdiv($from, Blocks::BYTES)); $number < $last; $number++) {
                $touched[$number] = true;
            }
            if ($to > $behind * Blocks::BYTES) {
                break; // the rest of it lies in the next stretch
            }
            $this->areas->next();
        }

        return $touched;
    }
}
