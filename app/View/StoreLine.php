<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Store;
use Kaiseki\Core\Estimate\MeasuredRate;

/** One store as its page shows it. */
final readonly class StoreLine
{
    public function __construct(
        public Store $store,
        /** Why it does not answer; null if it does. */
        public ?string $silence,
        public int $copies,
        public int $bytes,
        public int $workloads,
        public ?MeasuredRate $measured,
        /** Of the last runs, 10^6 bytes a second. */
        public TrendLine $past,
    ) {
    }
}
