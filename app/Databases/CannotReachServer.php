<?php

declare(strict_types=1);

namespace App\Databases;

use RuntimeException;

final class CannotReachServer extends RuntimeException
{
    public static function named(string $server, string $because): self
    {
        return new self("The server \"$server\" cannot be used: $because");
    }
}
