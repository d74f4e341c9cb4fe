<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

/** A whole disk, drawn as a frame. */
final readonly class DrawnDisk
{
    public function __construct(public float $x, public int $y, public float $width, public string $words)
    {
    }
}
