<?php

declare(strict_types=1);

namespace App\View;

use App\Trees\Catalog\FoundVersion;

/** A version in the life of a path, drawn from when it came to when it went. */
final readonly class VersionBar
{
    /**
     * @param  bool  $isOdd  every second one is drawn lower
     */
    public function __construct(public float $x, public float $width, public FoundVersion $version, public bool $isOdd)
    {
    }
}
