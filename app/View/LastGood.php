<?php

declare(strict_types=1);

namespace App\View;

use App\Trees\Catalog\FoundVersion;

/** The version before a sudden change. */
final readonly class LastGood
{
    /**
     * @param  string  $after  what happened after it, in words
     */
    public function __construct(public FoundVersion $version, public string $after)
    {
    }
}
