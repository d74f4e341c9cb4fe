<?php

declare(strict_types=1);

namespace App\View;

use App\Sets\SetOutline;

/** One post of the chart: a set, and where the drawing is thinned also those it stands for. */
final readonly class ChartPost
{
    public function __construct(
        public SetOutline $set,
        public float $x,
        /** In the zone of whoever looks, with its offset; and in UTC. */
        public string $told,
        public string $utc,
        /** Sets it stands for, itself included. */
        public int $standsFor = 1,
        /** Of those, how many are not whole. */
        public int $hurt = 0,
        /** Instants of the first and last it stands for. */
        public int $first = 0,
        public int $last = 0,
    ) {
    }

    /** ", stands for 7 sets, 2 of them not whole"; nothing for one that stands for itself. */
    public function standsForInWords(): string
    {
        $hurt = $this->hurt === 0 ? '' : ", {$this->hurt} of them not whole";

        return $this->standsFor === 1 ? '' : ", stands for {$this->standsFor} sets$hurt";
    }

    /** Without the offset, for rows. */
    public function shortly(): string
    {
        return substr($this->told, 0, (int) strrpos($this->told, ' '));
    }
}
