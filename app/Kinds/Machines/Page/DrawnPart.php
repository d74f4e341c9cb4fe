<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

/** A partition, drawn inside the frame of its disk. */
final readonly class DrawnPart
{
    /**
     * @param  string  $words  what is written on it; nothing where it is too narrow
     * @param  string  $kind  see ContentKind
     */
    public function __construct(
        public float $x,
        public int $y,
        public float $width,
        public string $title,
        public string $words,
        public string $kind,
    ) {
    }
}
