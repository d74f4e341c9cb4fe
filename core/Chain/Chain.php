<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** The sets that a point needs by the rule by sets, in the order of applying, the full first. */
final readonly class Chain
{
    public function __construct(
        /** @var non-empty-list<BackupSet> */
        public array $sets,
        /** Whether a base on the way was assumed, not recorded. */
        public bool $baseAssumed,
    ) {
    }
}
