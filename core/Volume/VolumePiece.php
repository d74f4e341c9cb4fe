<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A stretch of a volume of LVM: on one physical volume, or by turns on some. */
final readonly class VolumePiece
{
    /**
     * @param  int  $width  bytes of a stripe; of one that has none all of its bytes
     * @param  non-empty-list<array{string, int}>  $stripes  on which physical volume, by its id without dashes, and from which byte
     */
    public function __construct(public int $bytes, public int $width, public array $stripes)
    {
    }
}
