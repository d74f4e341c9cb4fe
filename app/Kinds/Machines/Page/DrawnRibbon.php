<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

/** Where a partition goes, drawn from the one above to the one below. */
final readonly class DrawnRibbon
{
    /**
     * @param  string  $points  the corners, as SVG has them
     */
    public function __construct(public string $points, public string $title)
    {
    }
}
