<?php

declare(strict_types=1);

namespace App\View;

use App\Estate\SetOutline;

/** One post of the chart: a set, and where the drawing is thinned also those it stands for. */
final readonly class ChartPost
{
    public function __construct(
        public SetOutline $set,
        public float $x,
        /** Sets it stands for, itself included. */
        public int $standsFor = 1,
        /** Of those, how many are not whole. */
        public int $hurt = 0,
        /** Instants of the first and last it stands for. */
        public int $first = 0,
        public int $last = 0,
    ) {
    }
}
