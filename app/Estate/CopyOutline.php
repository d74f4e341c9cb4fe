<?php

declare(strict_types=1);

namespace App\Estate;

use App\Models\Store;
use App\Stores\StoredCopy;
use Kaiseki\Core\Chain\CopyState;

/** A copy of a set as it is now. */
final readonly class CopyOutline
{
    public function __construct(
        public int $id,
        public Store $store,
        public StoredCopy $stored,
        public CopyState $state,
        /** Why it is not readable, or what a person must do; null if there is nothing to say. */
        public ?string $because,
        /** @var list<string> its cartridges that stand on the shelf */
        public array $offline = [],
    ) {
    }
}
