<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A volume group of LVM as it was: what it lay on, and its volumes. */
final readonly class RecordedGroup
{
    /** Of groups and volumes: lvm(8), "Valid names". */
    public const NAME = '/^(?!-)(?!\.{1,2}$)[A-Za-z0-9+_.-]{1,127}$/D';

    private const MOST = 1000;

    /**
     * @param  string  $id  as LVM writes it, with dashes
     * @param  int  $extent  bytes of which volumes have whole ones
     * @param  list<string>  $parts  the partitions that it lay on: "system.3", or "data" for a disk without a table
     * @param  list<RecordedVolume>  $volumes
     */
    public function __construct(
        public string $name,
        public string $id,
        public int $extent,
        public array $parts,
        public array $volumes,
    ) {
    }

    /** A volume of it, as people and trees call it. */
    public function key(RecordedVolume $volume): string
    {
        return "{$this->name}-{$volume->name}";
    }

    /** @param  list<RecordedVolume>  $volumes */
    public function with(array $volumes): self
    {
        return new self(...['volumes' => $volumes] + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['volumes' => array_map(fn (RecordedVolume $one): array => $one->toArray(), $this->volumes)] + get_object_vars($this);
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $name = $said->text('name', self::NAME);
        $extent = $said->number('extent', 512, 1 << 40);
        $volumes = array_map(fn (Said $one): RecordedVolume => RecordedVolume::said($one, $extent), $said->each('volumes', self::MOST));
        $names = array_map(fn (RecordedVolume $one): string => $one->name, $volumes);
        if (array_unique($names) !== $names) {
            throw UnfitLayout::at("The group $name", 'has two volumes of one name.');
        }
        $parts = $said->texts('parts', RecordedDisk::PART, self::MOST);
        if ($parts === [] || array_unique($parts) !== $parts) {
            throw UnfitLayout::at("The group $name", 'must lie on something, and on each once.');
        }

        return new self($name, $said->text('id', Content::LVM_ID), $extent, $parts, $volumes);
    }
}
