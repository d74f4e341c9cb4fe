<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A stretch of a disk of the machine. */
final readonly class PlacedPiece
{
    /** @param  int  $from  bytes from the beginning of the disk */
    public function __construct(public PlannedDisk $disk, public int $from, public int $bytes)
    {
    }
}
