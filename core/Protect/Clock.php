<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Instant;

/** The clock of a source. */
interface Clock
{
    public function now(): Instant;
}
