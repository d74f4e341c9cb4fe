<?php

declare(strict_types=1);

namespace App\Demo;

use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Clock;

/** A clock that shows what it was set to. */
final class SetClock implements Clock
{
    public Instant $moment;

    public function now(): Instant
    {
        return $this->moment;
    }
}
