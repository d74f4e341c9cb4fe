<?php

declare(strict_types=1);

namespace Kaiseki\Core\Scan;

use RuntimeException;

/** The scanner does not answer, or never began. */
final class ScannerIsSilent extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self("The scanner does not answer: $why");
    }
}
