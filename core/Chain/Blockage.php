<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** Why a point cannot be used, in words that follow "because". */
final readonly class Blockage
{
    public function __construct(public string $because)
    {
    }
}
