<?php

declare(strict_types=1);

namespace App\View;

/** What of a workload lies on a store. */
final class StoredThere
{
    public function __construct(
        public string $store,
        public string $site,
        public int $copies = 0,
        public int $readable = 0,
        public int $bytes = 0,
    ) {
    }
}
