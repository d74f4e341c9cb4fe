<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** An area of a disk of which a layer says one thing. Bytes, from the disk's beginning. */
final readonly class Extent
{
    public function __construct(public Held $held, public int $from, public int $to)
    {
    }
}
