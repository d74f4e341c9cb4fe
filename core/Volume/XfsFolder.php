<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The names in a folder of XFS: in its inode, or in blocks of which those with names stand first, and lists for searching behind. */
final class XfsFolder
{
    private const LARGEST = 256 << 20;

    private const MOST_NAMES = 2_000_000;

    /** Bytes from the beginning of a folder, behind which stand lists for searching. */
    private const LISTS = 1 << 35;

    private const FREE = 0xFFFF;

    /** Magic of a block with names => bytes of its head, and whether its list for searching is at its end. */
    private const BLOCKS = ['XD2B' => [16, true], 'XD2D' => [16, false], 'XDB3' => [64, true], 'XDD3' => [64, false]];

    /**
     * @return iterable<array-key, int> name => number of its inode
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public static function names(XfsInode $inode, XfsGeometry $geometry): iterable
    {
        if ($inode->format === XfsInode::LOCAL) {
            yield from self::short(substr($inode->fork, 0, $inode->size), $geometry->hasTypes ? 1 : 0);

            return;
        }
        $map = XfsMap::ofContent($geometry, $inode);
        $names = $read = 0;
        foreach ($map->extents() as [$first, , $count]) {
            $end = min(self::LISTS, ($first + $count) * $geometry->blockSize);
            // A block of a folder may be several of the volume, and its pieces lie apart.
            $begins = intdiv($first * $geometry->blockSize + $geometry->folderBlock - 1, $geometry->folderBlock) * $geometry->folderBlock;
            for ($at = $begins; $at < $end; $at += $geometry->folderBlock) {
                ($read += $geometry->folderBlock) <= self::LARGEST || throw UnreadableVolume::damaged('a folder is longer than one can be');
                foreach (self::block($map->read($at, $geometry->folderBlock), $geometry->hasTypes ? 1 : 0) as $name => $number) {
                    ++$names <= self::MOST_NAMES || throw UnreadableVolume::damaged('a folder has more names than one can have');
                    yield $name => $number;
                }
            }
        }
    }

    /** @return iterable<array-key, int> */
    private static function short(string $bytes, int $typeBytes): iterable
    {
        $head = strlen($bytes) >= 6 ? unpack('Ccount/Cwide', $bytes) : false;
        $head !== false || throw self::damaged();
        $isWide = $head['wide'] > 0;
        $count = $isWide ? $head['wide'] : $head['count'];
        $numberBytes = $isWide ? 8 : 4;
        for ($at = 2 + $numberBytes; $count > 0; $count--, $at += 3 + $length + $typeBytes + $numberBytes) {
            $length = ord($bytes[$at] ?? "\0");
            $number = substr($bytes, $at + 3 + $length + $typeBytes, $numberBytes);
            ($length > 0 && strlen($number) === $numberBytes) || throw self::damaged();
            yield substr($bytes, $at + 3, $length) => unpack($isWide ? 'J' : 'N', $number)[1] ?? 0;
        }
    }

    /** @return iterable<array-key, int> */
    private static function block(string $bytes, int $typeBytes): iterable
    {
        [$at, $hasList] = self::BLOCKS[substr($bytes, 0, 4)] ?? throw self::damaged();
        $end = strlen($bytes);
        if ($hasList) {
            $end -= 8 + 8 * (unpack('N', $bytes, $end - 8)[1] ?? 0);
        }
        for (; $at + 8 <= $end; $at += $size) {
            ['mark' => $mark, 'free' => $size] = unpack('nmark/nfree', $bytes, $at) ?: ['mark' => 0, 'free' => 0];
            if ($mark !== self::FREE) {
                $length = ord($bytes[$at + 8] ?? "\0");
                $size = (8 + 1 + $length + $typeBytes + 2 + 7) & ~7;
                ($length > 0 && $at + $size <= $end) || throw self::damaged();
                $name = substr($bytes, $at + 9, $length);
                if ($name !== '.' && $name !== '..') {
                    yield $name => unpack('J', $bytes, $at)[1] ?? 0;
                }
            }
            $size >= 8 || throw self::damaged();
        }
    }

    private static function damaged(): UnreadableVolume
    {
        return UnreadableVolume::damaged('a folder has an entry that is none');
    }
}
