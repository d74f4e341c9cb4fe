<?php

declare(strict_types=1);

namespace App\Hosts;

use Carbon\CarbonImmutable;
use Kaiseki\Core\Files\Status;

/** Something that was deleted on a host and still lies in its bin. All paths are below the top of the volume. */
final readonly class BinEntry
{
    public function __construct(
        /** Where it was. */
        public string $path,
        /** Where it lies. */
        public string $file,
        public string $info,
        public CarbonImmutable $deletedAt,
        public Status $status,
    ) {
    }
}
