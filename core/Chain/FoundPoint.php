<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use Kaiseki\Core\Instant;

/** The finder's answer. */
final readonly class FoundPoint
{
    public function __construct(
        /** Null if there is no usable point at or before the moment. */
        public ?BackupSet $set,
        /** The state that is recovered; within a log any instant of it. */
        public ?Instant $at,
        /** @var list<PassedOver> newest first */
        public array $passedOver,
        /** The nearest usable point before the chosen one (or before the moment), and the nearest after the moment. */
        public ?BackupSet $before,
        public ?BackupSet $after,
    ) {
    }
}
