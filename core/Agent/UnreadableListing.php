<?php

declare(strict_types=1);

namespace Kaiseki\Core\Agent;

use RuntimeException;

/** What an agent sent is no list of a machine, or not what was asked for. */
final class UnreadableListing extends RuntimeException
{
    public static function at(int $number, string $because): self
    {
        return new self("What the agent told of thing $number cannot be used: $because.");
    }

    public static function unasked(string $path): self
    {
        return new self("The agent sent \"$path\", which it was not asked for at that place.");
    }
}
