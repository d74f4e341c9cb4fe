<?php

declare(strict_types=1);

namespace App\Demo;

use RuntimeException;

/** The demo could not be made. */
final class DemoFailed extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self("The demo cannot be made: $why");
    }
}
