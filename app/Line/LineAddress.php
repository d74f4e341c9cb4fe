<?php

declare(strict_types=1);

namespace App\Line;

use App\Instance;

/** Where the line of this desk is, as bin/start wrote it down: HOST:PORT. */
final class LineAddress
{
    public static function here(): string
    {
        return trim((string) @file_get_contents(Instance::path('metal')));
    }
}
