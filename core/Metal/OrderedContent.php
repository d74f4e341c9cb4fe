<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Something that a medium fetches, or reads back, as its orders number it. */
final readonly class OrderedContent
{
    public const TABLE = 'table';

    /** What stands before the table in the first sector, and between it and the first partition. */
    public const CODE = 'code';

    public const GAP = 'gap';

    public const IMAGE = 'image';

    /** Of what is made anew and filled. */
    public const FILES = 'files';

    public function __construct(
        public int $number,
        public string $kind,
        public PlannedDisk $disk,
        public ?PlannedPartition $partition = null,
    ) {
    }
}
