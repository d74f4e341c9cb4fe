<?php

declare(strict_types=1);

namespace App\View;

/** A moment written along the ground. */
final readonly class ChartLabel
{
    public function __construct(public float $x, public string $text)
    {
    }
}
