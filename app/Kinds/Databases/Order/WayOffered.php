<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use Kaiseki\Core\Database\WayEstimate;

/** One way to bring something of a database back, as it would be now. */
final readonly class WayOffered
{
    public function __construct(
        /** beside, in-place, tables, rows, reverse or skip. */
        public string $way,
        public string $title,
        public string $touches,
        /** How long something stands still for those who use it. */
        public string $downtime,
        /** What is gone that was committed after the stop. */
        public string $lost,
        /** What there is at the end. */
        public string $end,
        public WayEstimate $estimate,
        public bool $isChosen,
        /** Why it cannot be chosen; null if it can. */
        public ?string $because = null,
    ) {
    }
}
