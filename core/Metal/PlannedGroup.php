<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A volume group as it will be: on which partitions, and with how much for each volume. */
final readonly class PlannedGroup
{
    /** Bytes before the first extent of a part: what lvm2 takes by itself, for the label and what it says of the group. */
    public const HEAD = 1 << 20;

    /**
     * @param  list<GroupPart>  $parts  in the order in which the group lay on them
     * @param  list<PlannedVolume>  $volumes
     */
    public function __construct(public RecordedGroup $was, public array $parts, public array $volumes)
    {
    }

    /** Extents that a part of so many bytes has, behind its head. */
    public static function extentsOf(int $bytes, int $extent): int
    {
        return intdiv(max(0, $bytes - self::HEAD), $extent);
    }

    /** Extents of all parts. */
    public function extents(): int
    {
        return (int) array_sum(array_map(fn (GroupPart $one): int => $one->extents($this->was->extent), $this->parts));
    }

    /** Bytes of all extents. */
    public function bytes(): int
    {
        return $this->extents() * $this->was->extent;
    }

    /** Bytes of all extents that it had. */
    public function bytesBefore(): int
    {
        $extents = fn (GroupPart $one): int => self::extentsOf($one->partition->was->bytes, $this->was->extent);

        return (int) array_sum(array_map($extents, $this->parts)) * $this->was->extent;
    }

    /** @return list<PlacedPiece> where a volume lies, in bytes of the disks */
    public function places(PlannedVolume $volume): array
    {
        return array_map(function (GroupPiece $piece): PlacedPiece {
            $part = $this->parts[$piece->part];
            $from = $part->partition->start + self::HEAD + $piece->from * $this->was->extent;

            return new PlacedPiece($part->disk, $from, $piece->extents * $this->was->extent);
        }, $volume->pieces);
    }

    /** What all of its parts say of it: the text by which LVM knows it (lvm.conf(5), "format_text"), with the numbers that it had. */
    public function text(): string
    {
        $parts = array_map(fn (GroupPart $part): string => $this->textOfPart($part), $this->parts);
        $volumes = array_map(self::textOfVolume(...), $this->volumes);

        return $this->was->name.self::section([
            "id = \"{$this->was->id}\"", 'seqno = 1', 'format = "lvm2"', 'status = ["RESIZEABLE", "READ", "WRITE"]', 'flags = []',
            'extent_size = '.intdiv($this->was->extent, 512), 'max_lv = 0', 'max_pv = 0', 'metadata_copies = 0',
            'physical_volumes'.self::section(array_map(fn (int $n, string $part): string => "pv$n$part", array_keys($parts), $parts)),
            ...$volumes === [] ? [] : ['logical_volumes'.self::section($volumes)],
        ])."\ncontents = \"Text Format Volume Group\"\nversion = 1\ndescription = \"\"\ncreation_host = \"\"\ncreation_time = 0\n\0";
    }

    private function textOfPart(GroupPart $part): string
    {
        return self::section([
            "id = \"{$part->id()}\"", "device = \"{$part->device()}\"", 'status = ["ALLOCATABLE"]', 'flags = []',
            'dev_size = '.intdiv($part->partition->bytes, 512), 'pe_start = '.intdiv(self::HEAD, 512),
            "pe_count = {$part->extents($this->was->extent)}",
        ]);
    }

    private static function textOfVolume(PlannedVolume $volume): string
    {
        $pieces = [];
        $at = 0;
        foreach ($volume->pieces as $number => $piece) {
            $pieces[] = 'segment'.($number + 1).self::section([
                "start_extent = $at", "extent_count = {$piece->extents}", 'type = "striped"', 'stripe_count = 1',
                "stripes = [\n\"pv{$piece->part}\", {$piece->from}\n]",
            ]);
            $at += $piece->extents;
        }

        return $volume->was->name.self::section([
            "id = \"{$volume->was->id}\"", 'status = ["READ", "WRITE", "VISIBLE"]', 'flags = []',
            'segment_count = '.count($pieces), ...$pieces,
        ]);
    }

    /** @param  list<string>  $of */
    private static function section(array $of): string
    {
        return " {\n".implode("\n", $of)."\n}";
    }
}
