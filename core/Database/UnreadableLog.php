<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use RuntimeException;

/** A file that is no binary log, or one that cannot be read at all. */
final class UnreadableLog extends RuntimeException
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
