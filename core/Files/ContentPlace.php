<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\Place;

final readonly class ContentPlace
{
    public function __construct(
        /** Names the copy. */
        public string $archiveKey,
        /** Its place in the order of reading. */
        public int $order,
        public ArchiveFile $archive,
        public Place $place,
    ) {
    }
}
