<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A volume of a group, as the group's text has it. */
final readonly class GroupVolume
{
    /**
     * @param  string  $id  as LVM writes it, with dashes
     * @param  list<VolumePiece>  $pieces  one behind the other; none where it is not made of plain ones
     * @param  UnreadableVolume|null  $flaw  why it cannot be read through to its disks
     */
    public function __construct(
        public string $name,
        public string $id,
        public int $bytes,
        public array $pieces,
        public ?UnreadableVolume $flaw = null,
    ) {
    }
}
