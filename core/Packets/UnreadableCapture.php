<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

use RuntimeException;

/** A record of packets is not what it must be. */
final class UnreadableCapture extends RuntimeException
{
    public static function at(int $byte): self
    {
        return new self("The record of packets is damaged at byte $byte.");
    }
}
