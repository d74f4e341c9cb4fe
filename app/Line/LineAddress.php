<?php

declare(strict_types=1);

namespace App\Line;

use App\Instance;

/** Where the line of this desk is, as bin/start wrote it down: HOST:PORT. */
final class LineAddress
{
    public static function isOne(string $said): bool
    {
        return preg_match('/^[A-Za-z0-9.:\[\]-]{1,200}:[0-9]{1,5}$/D', $said) === 1;
    }

    public static function here(): string
    {
        return trim((string) @file_get_contents(Instance::path('metal')));
    }
}
