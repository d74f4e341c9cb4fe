<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use RuntimeException;

final class UnsafePath extends RuntimeException
{
    public static function because(string $path, string $because): self
    {
        return new self('The path "'.Shown::name(substr($path, 0, 300)).'" is not taken: '.$because.'.');
    }
}
