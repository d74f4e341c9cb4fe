<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Refusal;
use RuntimeException;

final class CannotReachServer extends RuntimeException implements Refusal
{
    public static function named(string $server, string $because): self
    {
        return new self("The server \"$server\" cannot be used: $because");
    }
}
