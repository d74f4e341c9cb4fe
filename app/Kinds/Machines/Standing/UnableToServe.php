<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use RuntimeException;

final class UnableToServe extends RuntimeException
{
    public static function at(string $socket, string $why): self
    {
        return new self("Disks cannot be served at $socket: $why.");
    }
}
