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

    /** By what a part of a volume group is known. */
    public const HEAD = 'head';

    /** Of what is made anew and filled. */
    public const FILES = 'files';

    /** Of what was filled before: names that go, and what comes. */
    public const LESS = 'less';

    public const MORE = 'more';

    private function __construct(
        public int $number,
        public string $kind,
        private ?PlannedDisk $disk,
        private ?Place $place,
    ) {
    }

    public static function ofDisk(int $number, string $kind, PlannedDisk $disk): self
    {
        return new self($number, $kind, $disk, null);
    }

    public static function at(int $number, string $kind, Place $place): self
    {
        return new self($number, $kind, null, $place);
    }

    /** Of a table and of what stands around it. */
    public function disk(): PlannedDisk
    {
        assert($this->disk !== null);

        return $this->disk;
    }

    /** Of all else. */
    public function place(): Place
    {
        assert($this->place !== null);

        return $this->place;
    }
}
