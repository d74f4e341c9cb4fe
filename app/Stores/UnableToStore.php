<?php

declare(strict_types=1);

namespace App\Stores;

use RuntimeException;

final class UnableToStore extends RuntimeException
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
