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
     */
    public function __construct(
        public array $disks,
        public array $misfits,
        public array $cautions,
        public array $leftAlone,
    ) {
    }
}
