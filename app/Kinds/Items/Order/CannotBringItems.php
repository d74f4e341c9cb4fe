<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Refusal;
use RuntimeException;

/** Items that cannot be brought back, or not as it was ordered; the message says what to do. */
final class CannotBringItems extends RuntimeException implements Refusal
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
