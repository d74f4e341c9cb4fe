<?php

declare(strict_types=1);

namespace App\Alarms;

use RuntimeException;

/** The other side answered, and did not take an alarm. */
final class NotTaken extends RuntimeException
{
    public static function answered(int $status): self
    {
        return new self("It answered with $status.");
    }
}
