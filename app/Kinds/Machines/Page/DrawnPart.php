<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use Kaiseki\Core\Metal\ContentKind;

/** A partition, drawn inside the frame of its disk. */
final readonly class DrawnPart
{
    /**
     * @param  string  $words  what is written on it; nothing where it is too narrow
     */
    public function __construct(
        public float $x,
        public int $y,
        public float $width,
        public string $title,
        public string $words,
        private ContentKind $kind,
    ) {
    }

    /** How dark it is: the darkest comes byte by byte. */
    public function shade(): float
    {
        return match (true) {
            $this->kind->isFilled() => 0.14,
            $this->kind === ContentKind::Swap, $this->kind === ContentKind::Group => 0.04,
            default => 0.32,
        };
    }
}
