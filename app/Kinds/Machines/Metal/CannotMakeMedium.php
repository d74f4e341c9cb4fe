<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use RuntimeException;

/** Why there is no medium, in words that say what can be done. */
final class CannotMakeMedium extends RuntimeException
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
