<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Where a partition comes to lie on another disk. */
final readonly class PlannedPartition
{
    /**
     * @param  int  $start  bytes
     * @param  int  $needs  bytes that it must have at the least
     */
    public function __construct(public RecordedPartition $was, public int $start, public int $bytes, public int $needs)
    {
    }

    public function end(): int
    {
        return $this->start + $this->bytes;
    }

    public function isMoved(): bool
    {
        return $this->start !== $this->was->start;
    }
}
