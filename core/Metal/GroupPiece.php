<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A stretch of a volume on one part of its group. */
final readonly class GroupPiece
{
    /**
     * @param  int  $part  its number in the group
     * @param  int  $from  extents of the part before it
     */
    public function __construct(public int $part, public int $from, public int $extents)
    {
    }
}
