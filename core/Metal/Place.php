<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Something that a content comes onto: a partition, or a volume of a group. */
final readonly class Place
{
    /**
     * @param  string  $key  as people and trees call it: "system.2", "data" for a disk without a table, "harbour-root"
     * @param  string  $node  as orders name it: a disk and the number of the partition, or a group and the volume behind a slash
     * @param  int  $was  bytes that it had
     * @param  list<PlacedPiece>  $pieces  where it lies, one behind the other
     * @param  list<RecordedPiece>  $lay  where it lay; none of a volume that was not made of plain pieces
     */
    private function __construct(
        public string $key,
        public string $node,
        public Content $content,
        public int $was,
        public int $bytes,
        public array $pieces,
        public array $lay,
    ) {
    }

    public static function onDisk(PlannedDisk $disk, PlannedPartition $one): self
    {
        return new self(
            $disk->was->key($one->was),
            "{$disk->onto->name} {$one->was->number}",
            $one->was->content,
            $one->was->bytes,
            $one->bytes,
            [new PlacedPiece($disk, $one->start, $one->bytes)],
            [new RecordedPiece($one->was->bytes, $one->was->bytes, [[$disk->was->key($one->was), 0]])],
        );
    }

    public static function inGroup(PlannedGroup $group, PlannedVolume $one): self
    {
        return new self(
            $group->was->key($one->was),
            "{$group->was->name} /{$one->was->name}",
            $one->was->content,
            $one->was->bytes,
            $one->bytes,
            $group->places($one),
            $one->was->pieces,
        );
    }
}
