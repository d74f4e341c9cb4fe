<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use RuntimeException;

final class AlreadyKnown extends RuntimeException
{
    public static function set(string $name): self
    {
        return new self("a set named $name is registered already");
    }
}
