<?php

declare(strict_types=1);

namespace Kaiseki\Core\Order;

use Kaiseki\Core\Instant;

/** What somebody's words for a moment were taken to mean. */
final readonly class WantedSpan
{
    public function __construct(
        public Instant $from,
        /** The wanted moment: the newest good point at or before it answers the words. The same as from where they name a moment. */
        public Instant $to,
        /** What was assumed, in a sentence; null where nothing had to be. */
        public ?string $assumption = null,
        /** What the words could mean as well: the second time a clock showed the same. */
        public ?Instant $other = null,
    ) {
    }
}
