<?php

declare(strict_types=1);

namespace App\Databases;

use RuntimeException;

/** A restore of a database that cannot begin, or had to stop; the message says what to do. */
final class CannotRestore extends RuntimeException
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
