<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Instant;

final class SystemClock implements Clock
{
    public function now(): Instant
    {
        return Instant::ofMicroseconds((int) (microtime(true) * 1e6));
    }
}
