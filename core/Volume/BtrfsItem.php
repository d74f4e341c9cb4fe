<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** An item of a tree of Btrfs: what it belongs to, of what type it is, a number that tells it from others of that, and its data. */
final readonly class BtrfsItem
{
    public const INODE = 1;

    public const XATTR = 24;

    public const DIR_INDEX = 96;

    public const EXTENT_DATA = 108;

    public const ROOT = 132;

    public const ROOT_PLACE = 144;

    public const CHUNK = 228;

    public function __construct(public int $object, public int $type, public int $offset, public string $data)
    {
    }

    /** An entry of a folder, or an attribute, that stands at a byte of it; null if none does. */
    public function entry(int $at = 0): ?BtrfsEntry
    {
        $fields = strlen($this->data) >= $at + 30 ? unpack('Pnumber/Ctype/x16/vvalue/vname', $this->data, $at) : false;
        $bytes = $fields === false ? 0 : 30 + $fields['name'] + $fields['value'];

        return $fields === false || $at + $bytes > strlen($this->data) ? null : new BtrfsEntry(
            $fields['number'],
            $fields['type'],
            substr($this->data, $at + 30, $fields['name']),
            substr($this->data, $at + 30 + $fields['name'], $fields['value']),
            $bytes,
        );
    }
}
