<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use Kaiseki\Core\Catalog\Version;

/** A version of a path and its span, in microseconds since 1970. */
final readonly class FoundVersion
{
    public function __construct(
        public string $path,
        /** Of the first set that has it. */
        public int $first,
        /** Of the first set that no longer has it; PHP_INT_MAX while the newest has. */
        public int $until,
        public Version $version,
        /** Of the catalog; 0 where it was not asked for. */
        public int $id = 0,
        public int $history = 0,
    ) {
    }
}
