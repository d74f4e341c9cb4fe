<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** The trees of Btrfs: of its chunks, by which a place is found on the disk; of its roots; and of each subvolume. */
final class BtrfsTrees
{
    private const HEAD = 101;

    private const DEEPEST = 8;

    /** Incompatible features that change nothing of what is read here, or are read; not those of several disks. */
    private const KNOWN = 0x1 | 0x2 | 0x4 | 0x8 | 0x10 | 0x20 | 0x40 | 0x100 | 0x200 | 0x400;

    /** Kinds of chunks whose first copy is all of it: on one disk, once or twice. */
    private const STRIPED = 0x8 | 0x40 | 0x80 | 0x100;

    private const CHUNK_ROOT = 3;

    private const ROOTS = 1;

    /** Nodes that are held at once. */
    private const KEPT = 256;

    private const MOST_CHUNKS = 200_000;

    public readonly string $label;

    public readonly bool $hasLog;

    private readonly int $node;

    /** @var list<array{int, int, int}> where each chunk begins, its bytes, and where it lies on the disk */
    private array $chunks = [];

    /** @var array<int, array{int, int}|null> tree => place and level of its root */
    private array $roots = [];

    /** @var array<int, string> place => node */
    private array $nodes = [];

    public function __construct(private readonly Disk $disk, string $first)
    {
        $fields = unpack('Proots/Pchunks/Plog', $first, 80) + unpack('Pdisks/Vsector/Vnode/x8/Vsystem', $first, 136)
            + unpack('Pincompatible', $first, 188) + unpack('CrootLevel/CchunkLevel', $first, 198);
        $unknown = $fields['incompatible'] & ~self::KNOWN;
        $unknown === 0 || throw UnreadableVolume::because(sprintf('has features that are not read (0x%x)', $unknown));
        $fields['disks'] === 1 || throw UnreadableVolume::because("lies on {$fields['disks']} disks, of which this is one");
        $isPlausible = $fields['node'] >= 4096 && $fields['node'] <= 65_536 && ($fields['node'] & ($fields['node'] - 1)) === 0
            && $fields['system'] <= 2048;
        $isPlausible || throw UnreadableVolume::damaged('its first sector says what cannot be');
        $this->node = $fields['node'];
        $this->label = rtrim(substr($first, 299, 256), "\0");
        $this->hasLog = $fields['log'] !== 0;
        $this->takeFirstChunks(substr($first, 811, $fields['system']));
        $this->roots = [
            self::CHUNK_ROOT => [$fields['chunks'], $fields['chunkLevel']],
            self::ROOTS => [$fields['roots'], $fields['rootLevel']],
        ];
        foreach ($this->items(self::CHUNK_ROOT, 256, BtrfsItem::CHUNK) as $item) {
            $this->chunk($item->offset, $item->data);
        }
        usort($this->chunks, fn (array $a, array $b): int => $a[0] <=> $b[0]);
    }

    /** Those by which the tree of chunks is found: each a key and an item. */
    private function takeFirstChunks(string $bytes): void
    {
        for ($at = 0; $at + 17 + 48 <= strlen($bytes); $at += 17 + 48 + 32 * $stripes) {
            $stripes = unpack('v', $bytes, $at + 17 + 44)[1] ?? 0;
            $this->chunk(unpack('P', $bytes, $at + 9)[1] ?? 0, substr($bytes, $at + 17, 48 + 32 * $stripes));
        }
    }

    private function chunk(int $begins, string $data): void
    {
        $fields = strlen($data) >= 80 ? unpack('Plength/x16/Ptype/x12/vstripes/x2/Pdisk/Poffset', $data) : false;
        $isTooMany = count($this->chunks) > self::MOST_CHUNKS;
        if ($fields === false || $fields['length'] <= 0 || min($fields['offset'], $begins) < 0 || $isTooMany) {
            throw UnreadableVolume::damaged('where its chunks lie is not said as it can be');
        }
        ($fields['type'] & self::STRIPED) === 0 || throw UnreadableVolume::because('is striped, which is not read');
        $this->chunks[] = [$begins, $fields['length'], $fields['offset']];
    }

    /** Bytes at a place, which is counted through all chunks. */
    public function read(int $place, int $length): string
    {
        [$low, $high] = [0, count($this->chunks) - 1];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            $this->chunks[$middle][0] <= $place ? $low = $middle : $high = $middle - 1;
        }
        [$begins, $bytes, $lies] = $this->chunks[$low] ?? [0, 0, 0];
        $isWithin = $place >= $begins && $length >= 0 && $place - $begins <= $bytes - $length;
        $read = $isWithin ? $this->disk->read($lies + $place - $begins, $length) : '';

        return strlen($read) === $length ? $read : throw UnreadableVolume::damaged("the place $place does not lie within it");
    }

    /** Whether a subvolume has its place in another. */
    public function isIn(int $tree, int $subvolume): bool
    {
        foreach ($this->items(self::ROOTS, $subvolume, BtrfsItem::ROOT_PLACE) as $item) {
            if ($item->offset === $tree) {
                return $this->rootOf($subvolume) !== null;
            }
        }

        return false;
    }

    /** @return array{int, int}|null */
    private function rootOf(int $tree): ?array
    {
        if (! array_key_exists($tree, $this->roots)) {
            $this->roots[$tree] = null;
            foreach ($this->items(self::ROOTS, $tree, BtrfsItem::ROOT) as $item) {
                $root = strlen($item->data) >= 239 ? unpack('Pplace', $item->data, 176) : false;
                $root === false || $this->roots[$tree] = [$root['place'], ord($item->data[238])];
            }
        }

        return $this->roots[$tree];
    }

    /**
     * What a tree has of something, of a type, in the order of its numbers.
     *
     * @return iterable<BtrfsItem>
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function items(int $tree, int $object, int $type): iterable
    {
        [$place, $level] = $this->rootOf($tree) ?? throw UnreadableVolume::damaged("there is no subvolume $tree");
        $level <= self::DEEPEST || throw UnreadableVolume::damaged('a tree is deeper than one can be');
        yield from $this->below($place, $level, $object, $type);
    }

    /** @return iterable<BtrfsItem> */
    private function below(int $place, int $level, int $object, int $type): iterable
    {
        $node = $this->node($place, $level);
        $count = unpack('V', $node, 96)[1] ?? 0;
        $size = $level === 0 ? 25 : 33;
        $count <= intdiv(strlen($node) - self::HEAD, $size) || throw UnreadableVolume::damaged('a node of a tree is none');
        for ($i = $this->from($node, $count, $size, $object, $type, $level > 0); $i < $count; $i++) {
            $key = unpack('Pobject/Ctype/Poffset', $node, self::HEAD + $i * $size);
            assert($key !== false);
            $order = self::order($key['object'], $key['type'], $object, $type);
            if ($order > 0) {
                return;
            }
            if ($level > 0) {
                yield from $this->below(unpack('P', $node, self::HEAD + $i * $size + 17)[1] ?? 0, $level - 1, $object, $type);
            } elseif ($order === 0) {
                $at = unpack('Vfrom/Vsize', $node, self::HEAD + $i * $size + 17);
                if ($at === false || self::HEAD + $at['from'] + $at['size'] > strlen($node)) {
                    throw UnreadableVolume::damaged('an item is longer than its node');
                }
                yield new BtrfsItem($object, $type, $key['offset'], substr($node, self::HEAD + $at['from'], $at['size']));
            }
        }
    }

    /** The first of a node that can have it: in one that leads further, the last whose key does not come behind it. */
    private function from(string $node, int $count, int $size, int $object, int $type, bool $leads): int
    {
        [$low, $high] = [0, $count];
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            $key = unpack('Pobject/Ctype', $node, self::HEAD + $middle * $size);
            assert($key !== false);
            self::order($key['object'], $key['type'], $object, $type) < 0 ? $low = $middle + 1 : $high = $middle;
        }

        return $leads ? max(0, $low - 1) : $low;
    }

    /** Of keys; the numbers of objects have no sign. */
    private static function order(int $object, int $type, int $other, int $otherType): int
    {
        return [$object ^ PHP_INT_MIN, $type] <=> [$other ^ PHP_INT_MIN, $otherType];
    }

    private function node(int $place, int $level): string
    {
        if (! isset($this->nodes[$place])) {
            $bytes = $this->read($place, $this->node);
            (unpack('P', $bytes, 48)[1] ?? 0) === $place || throw UnreadableVolume::damaged('a node of a tree is none');
            count($this->nodes) < self::KEPT || $this->nodes = [];
            $this->nodes[$place] = $bytes;
        }
        ord($this->nodes[$place][100]) === $level || throw UnreadableVolume::damaged('a node of a tree is none');

        return $this->nodes[$place];
    }
}
