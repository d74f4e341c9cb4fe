<?php

declare(strict_types=1);

namespace App\View;

/** A stretch along the ground. */
final readonly class ChartSpan
{
    public function __construct(public float $x, public float $width)
    {
    }
}
