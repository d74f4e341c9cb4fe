<?php

declare(strict_types=1);

namespace App\View;

/** The way below the ground from a set to the one that it rests on. */
final readonly class ChartRail
{
    /**
     * @param  string  $path  as SVG has it
     * @param  bool  $isOwn  whether it is of the chain of the point in hand
     * @param  bool  $isBroken  whether something below it cannot be read
     */
    public function __construct(public string $path, public bool $isOwn, public bool $isBroken)
    {
    }
}
