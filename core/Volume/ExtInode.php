<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** An inode of an extended file system, as it is stored. */
final readonly class ExtInode
{
    private const EXTENTS = 0x80000;

    private const INLINE = 0x10000000;

    /** The first four bits of the mode, as stat(2) has them. */
    public int $kind;

    public int $mode;

    public int $uid;

    public int $gid;

    public int $size;

    /** Nanoseconds since 1970. */
    public int $mtime;

    public int $links;

    public int $flags;

    /** Where its attributes lie that are not in itself; 0 for nowhere. */
    public int $attributes;

    /** 60 bytes: where its content lies, or a short content itself. */
    public string $map;

    /** What of it lies behind the fixed fields: attributes. */
    public string $rest;

    private int $blocks;

    public function __construct(string $bytes)
    {
        $fields = unpack('vmode/vuid/Vsize/x8skip/Vmtime/x4skip2/vgid/vlinks/Vblocks/Vflags', $bytes);
        $high = unpack('VattributesLow/Vsize/x6skip/vattributesHigh/vuid/vgid', $bytes, 104);
        assert($fields !== false && $high !== false);
        $this->kind = $fields['mode'] >> 12;
        $this->mode = $fields['mode'] & 07777;
        $this->uid = ($high['uid'] << 16) | $fields['uid'];
        $this->gid = ($high['gid'] << 16) | $fields['gid'];
        // Of a folder the upper half has another meaning.
        $this->size = $this->kind === 0x8 ? ($high['size'] << 32) | $fields['size'] : $fields['size'];
        $this->links = $fields['links'];
        $this->flags = $fields['flags'];
        $this->blocks = $fields['blocks'];
        $this->attributes = ($high['attributesHigh'] << 32) | $high['attributesLow'];
        $this->map = substr($bytes, 40, 60);
        $extra = strlen($bytes) > 130 ? unpack('v', $bytes, 128)[1] ?? 0 : 0;
        $this->rest = $extra >= 4 && 128 + $extra < strlen($bytes) ? substr($bytes, 128 + $extra) : '';
        $seconds = $fields['mtime'] > 0x7FFFFFFF ? $fields['mtime'] - (1 << 32) : $fields['mtime'];
        $more = $extra >= 12 && strlen($bytes) >= 140 ? unpack('V', $bytes, 136)[1] ?? 0 : 0;
        // In nanoseconds 64 bits reach to the year 2262; these fields would to 2446.
        $this->mtime = min($seconds + (($more & 3) << 32), Posix::LAST_SECOND) * 1_000_000_000 + ($more >> 2) % 1_000_000_000;
    }

    /** Whether less lies on the disk than it has bytes: the rest reads as zeros. */
    public function isSparse(): bool
    {
        return ! $this->isInline() && $this->blocks * 512 < $this->size;
    }

    public function hasExtents(): bool
    {
        return ($this->flags & self::EXTENTS) !== 0;
    }

    public function isInline(): bool
    {
        return ($this->flags & self::INLINE) !== 0;
    }

    /** @throws UnreadableVolume where it goes on in an attribute */
    public function inline(): string
    {
        if ($this->size > 60) {
            throw UnreadableVolume::because('keeps a content in an attribute, which is not read');
        }

        return substr($this->map, 0, $this->size);
    }

    /** Where a link leads, if that is short enough to stand here; null if it does not. */
    public function shortTarget(): ?string
    {
        return $this->size < 60 && ! $this->hasExtents() && ! $this->isInline() && ($this->blocks === 0 || $this->attributes !== 0)
            ? substr($this->map, 0, $this->size)
            : null;
    }
}
