<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

/** How long a way takes, drawn as a bar of three parts. */
final readonly class WayBar
{
    /**
     * @param  float  $goesOn  width of the part in which the machine goes on
     * @param  float  $standsStill  of that in which it stands still
     * @param  float  $owed  of what is to be done while it runs again
     */
    public function __construct(public float $goesOn, public float $standsStill, public float $owed)
    {
    }

    /** Of the bar of the way that takes longest. */
    public const WIDTH = 72.0;
}
