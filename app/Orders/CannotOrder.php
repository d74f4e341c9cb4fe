<?php

declare(strict_types=1);

namespace App\Orders;

use RuntimeException;

/** An order that cannot begin as it stands; the message says what to do. */
final class CannotOrder extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
