<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A volume of a group as it will be. */
final readonly class PlannedVolume
{
    /**
     * @param  int  $needs  bytes that it must have at the least
     * @param  list<GroupPiece>  $pieces  where it comes to lie, one behind the other
     */
    public function __construct(public RecordedVolume $was, public int $bytes, public int $needs, public array $pieces)
    {
    }
}
