<?php

declare(strict_types=1);

namespace App\Kinds;

use RuntimeException;

/** Something was asked of a workload whose kind is not installed here. */
final class KindIsMissing extends RuntimeException implements Refusal
{
    public static function named(string $kind): self
    {
        return new self(ucfirst(self::words($kind)).'.');
    }

    public static function words(string $kind): string
    {
        return "the kind \"$kind\" is not installed here: name its class in config/kinds.php, or in the file that KAISEKI_KINDS points to";
    }
}
