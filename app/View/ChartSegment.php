<?php

declare(strict_types=1);

namespace App\View;

/** A copy of a set, drawn as a part of its post. */
final readonly class ChartSegment
{
    /**
     * @param  bool  $isGone  whether it cannot be read
     */
    public function __construct(public float $y, public float $height, public bool $isGone, public string $title)
    {
    }
}
