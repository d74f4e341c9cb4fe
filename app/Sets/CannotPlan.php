<?php

declare(strict_types=1);

namespace App\Sets;

use RuntimeException;

/** There is no usable point, or something stands in the way of the run. */
final class CannotPlan extends RuntimeException
{
    public static function because(string $because): self
    {
        return new self(ucfirst($because).'.');
    }
}
