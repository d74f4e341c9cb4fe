<?php

declare(strict_types=1);

namespace App\Line;

use RuntimeException;

/** The keys of the line of recovery media and agents cannot be made. */
final class NoLine extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
