<?php

declare(strict_types=1);

namespace App\Kinds;

/** One thing that a set could give back, whether it can, and in what words. */
final readonly class Given
{
    public function __construct(public string $what, public bool $isGiven, public string $words)
    {
    }
}
