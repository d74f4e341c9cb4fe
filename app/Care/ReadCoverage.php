<?php

declare(strict_types=1);

namespace App\Care;

use Carbon\CarbonImmutable;

/** How many of the copies that can be read were ever found right. */
final readonly class ReadCoverage
{
    /**
     * @param  CarbonImmutable|null  $oldest  the oldest of those moments
     */
    public function __construct(public int $copies, public int $checked, public ?CarbonImmutable $oldest)
    {
    }
}
