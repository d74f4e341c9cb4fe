<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** An inode of XFS, as it is stored. */
final readonly class XfsInode
{
    public const LOCAL = 1;

    public const EXTENTS = 2;

    public const TREE = 3;

    private const BIG_TIMES = 0x8;

    private const BIG_COUNTS = 0x10;

    /** The first four bits of the mode, as stat(2) has them. */
    public int $kind;

    public int $mode;

    public int $uid;

    public int $gid;

    public int $links;

    public int $size;

    /** Nanoseconds since 1970. */
    public int $mtime;

    /** LOCAL, EXTENTS or TREE: what its two forks hold. */
    public int $format;

    public int $attributesFormat;

    public int $extents;

    public int $attributeExtents;

    public string $fork;

    /** '' for none. */
    public string $attributesFork;

    public function __construct(string $bytes)
    {
        str_starts_with($bytes, 'IN') || throw UnreadableVolume::damaged('an inode is none');
        $fields = unpack('nmode/Cversion/Cformat/noldLinks/Nuid/Ngid/Nlinks', $bytes, 2)
            + unpack('Nseconds/Nparts', $bytes, 40) + unpack('Jsize/Jblocks/x4/Nextents/nattributes/Cfork/Cformat2', $bytes, 56);
        $isThird = $fields['version'] === 3;
        $flags = $isThird ? unpack('J', $bytes, 120)[1] ?? 0 : 0;
        $this->kind = $fields['mode'] >> 12;
        $this->mode = $fields['mode'] & 07777;
        $this->uid = $fields['uid'];
        $this->gid = $fields['gid'];
        $this->links = $fields['version'] === 1 ? $fields['oldLinks'] : $fields['links'];
        $fields['size'] >= 0 || throw UnreadableVolume::damaged('an inode says what cannot be');
        $this->size = $fields['size'];
        $this->mtime = self::nanoseconds($fields['seconds'], $fields['parts'], ($flags & self::BIG_TIMES) !== 0);
        $this->format = $fields['format'];
        $this->attributesFormat = $fields['format2'];
        $isBig = ($flags & self::BIG_COUNTS) !== 0;
        $this->extents = $isBig ? unpack('J', $bytes, 24)[1] ?? 0 : $fields['extents'];
        $this->attributeExtents = $isBig ? $fields['extents'] : $fields['attributes'];
        $core = $isThird ? 176 : 100;
        $end = $fields['fork'] === 0 ? strlen($bytes) : $core + 8 * $fields['fork'];
        $end <= strlen($bytes) || throw UnreadableVolume::damaged('an inode says what cannot be');
        $this->fork = substr($bytes, $core, $end - $core);
        $this->attributesFork = substr($bytes, $end);
    }

    /** Since Linux 5.10 all nanoseconds since 1901 in one number; before, seconds with a sign, and parts of one. */
    private static function nanoseconds(int $high, int $low, bool $isBig): int
    {
        if ($isBig) {
            $all = ($high << 32) | $low;
            $seconds = intdiv($all, 1_000_000_000) - (1 << 31);

            return $all < 0 ? Posix::LAST_SECOND * 1_000_000_000 : min($seconds, Posix::LAST_SECOND) * 1_000_000_000 + $all % 1_000_000_000;
        }

        return ($high > 0x7FFFFFFF ? $high - (1 << 32) : $high) * 1_000_000_000 + $low % 1_000_000_000;
    }
}
