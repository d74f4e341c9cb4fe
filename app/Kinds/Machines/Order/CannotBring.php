<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Refusal;
use RuntimeException;

/** A restore of a machine that cannot begin, or had to stop; the message says what to do. */
final class CannotBring extends RuntimeException implements Refusal
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
