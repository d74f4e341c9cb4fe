<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Sets\SetOutline;

/** A file of a tree put together across points that is not as it is at the point itself. */
final readonly class BestEntry
{
    public function __construct(
        public string $path,
        /** older: an earlier version instead; returned: gone at the point, and given back; lost: there is none. */
        public string $state,
        public string $because,
        /** The version that is taken, packed; null for none. */
        public ?string $packed = null,
        /** The newest point at which it was so. */
        public ?SetOutline $from = null,
    ) {
    }
}
