<?php

declare(strict_types=1);

namespace Kaiseki\Core\Retention;

use Kaiseki\Core\Instant;

/** A set as the rules for keeping see it. */
final readonly class KeptSet
{
    public function __construct(
        public string $id,
        public Instant $instant,
        /** @var list<string> ids of the sets that it cannot be given back without */
        public array $needs,
        /** @var array<string, bool> store => whether the copy there can be read */
        public array $copies,
        /** Why it is held; null if it is not. */
        public ?string $held = null,
    ) {
    }
}
