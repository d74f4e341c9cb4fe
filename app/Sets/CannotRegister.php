<?php

declare(strict_types=1);

namespace App\Sets;

use RuntimeException;

final class CannotRegister extends RuntimeException
{
    /** @param  string  $because in words that follow the name of a file */
    public static function because(string $because): self
    {
        return new self($because);
    }
}
