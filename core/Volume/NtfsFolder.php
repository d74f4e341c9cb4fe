<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The names in a folder of NTFS: a tree whose nodes are read one after the other, since all of them are wanted. */
final class NtfsFolder
{
    /** Of the index of names. */
    private const NAME = "\$\0I\x003\x000\0";

    private const SHORT = 2;

    private const LAST = 2;

    private const NUMBER = 0xFFFFFFFFFFFF;

    private const LARGEST = 256 << 20;

    private const MOST_NAMES = 2_000_000;

    /**
     * @return iterable<array-key, int> name in UTF-16 => number of its file
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public static function names(NtfsFile $folder, NtfsGeometry $geometry): iterable
    {
        $root = $folder->value(NtfsAttribute::INDEX_ROOT, self::NAME) ?? throw UnreadableVolume::damaged('a folder has no list of names');
        yield from self::node($root, 16);
        $nodes = $folder->stream(self::NAME, NtfsAttribute::INDEX_ALLOCATION);
        if ($nodes === null) {
            return;
        }
        $used = $folder->stream(self::NAME, NtfsAttribute::BITMAP);
        $used = $used === null || $used->size() > self::LARGEST ? '' : $used->read(0, $used->size());
        $nodes->size() <= self::LARGEST || throw UnreadableVolume::damaged("a folder says it has {$nodes->size()} bytes");
        $names = 0;
        for ($i = 0, $count = intdiv($nodes->size(), $geometry->indexRecord); $i < $count; $i++) {
            if ((ord($used[$i >> 3] ?? "\0") >> ($i & 7) & 1) === 0) {
                continue;
            }
            $bytes = NtfsRecords::mended($nodes->read($i * $geometry->indexRecord, $geometry->indexRecord), 'INDX');
            foreach (self::node($bytes, 24) as $name => $file) {
                ++$names <= self::MOST_NAMES || throw UnreadableVolume::damaged('a folder has more names than one can have');
                yield $name => $file;
            }
        }
    }

    /**
     * @param  int  $head  where the head of its entries stands, from which their place is counted
     * @return iterable<array-key, int>
     */
    private static function node(string $bytes, int $head): iterable
    {
        $fields = strlen($bytes) >= $head + 16 ? unpack('Vfirst/Vused', $bytes, $head) : false;
        $fields !== false || throw UnreadableVolume::damaged('a list of names is cut off');
        $end = min(strlen($bytes), $head + $fields['used']);
        for ($at = $head + $fields['first']; $at + 16 <= $end; $at += $entry['length']) {
            $entry = unpack('Pfile/vlength/vkey/vflags', $bytes, $at);
            if ($entry === false || $entry['length'] < 16 || $at + $entry['length'] > $end) {
                throw UnreadableVolume::damaged('a folder has an entry that is none');
            }
            if (($entry['flags'] & self::LAST) !== 0) {
                return;
            }
            $key = substr($bytes, $at + 16, $entry['key']);
            $name = strlen($key) > 66 ? substr($key, 66, 2 * ord($key[64])) : '';
            if (strlen($name) !== 2 * ord($key[64] ?? "\0")) {
                throw UnreadableVolume::damaged('a folder has an entry that is none');
            }
            if (ord($key[65] ?? "\0") !== self::SHORT) {
                yield $name => $entry['file'] & self::NUMBER;
            }
        }
    }
}
