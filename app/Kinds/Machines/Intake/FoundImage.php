<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;

/** A file that, by its name, is the image of a disk. */
final readonly class FoundImage
{
    public function __construct(
        /** Below the root of the store. */
        public string $file,
        /** Of the set that it is a part of. */
        public string $set,
        public string $disk,
        /** A value of ImageOf::FORMATS. */
        public string $format,
        public Level $level,
        public Instant $at,
        public string $history,
    ) {
    }
}
