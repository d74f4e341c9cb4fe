<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The content of a file of Btrfs: within the tree, or in extents, each compressed or not, with holes between. */
final readonly class BtrfsContent
{
    private const INLINE = 0;

    private const REGULAR = 1;

    private const AT_ONCE = 1 << 20;

    /** Bytes that are compressed together at most. */
    private const MOST_PACKED = 1 << 17;

    public function __construct(private BtrfsTrees $trees, private int $tree, private int $number, private int $size)
    {
    }

    /**
     * @return iterable<string>
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function pieces(): iterable
    {
        $at = 0;
        foreach ($this->trees->items($this->tree, $this->number, BtrfsItem::EXTENT_DATA) as $item) {
            if ($item->offset < $at || $item->offset >= $this->size) {
                continue; // of the room behind its end
            }
            yield from self::zeros($item->offset - $at);
            $at = $item->offset;
            foreach ($this->extent($item->data) as $piece) {
                $piece = substr($piece, 0, $this->size - $at);
                yield $piece;
                $at += strlen($piece);
            }
        }
        yield from self::zeros($this->size - $at);
    }

    /** @return iterable<string> */
    private static function zeros(int $length): iterable
    {
        for (; $length > 0; $length -= $some) {
            $some = min(self::AT_ONCE, $length);
            yield str_repeat("\0", $some);
        }
    }

    /** @return iterable<string> */
    private function extent(string $data): iterable
    {
        $head = strlen($data) >= 21 ? unpack('x8/Plength/Cpacked/Cencrypted/vother/Ctype', $data) : false;
        if ($head === false || $head['length'] < 0) {
            throw UnreadableVolume::damaged('where a content lies is not said as it can be');
        }
        $head['encrypted'] === 0 && $head['other'] === 0 || throw UnreadableVolume::because('keeps a content in a way that is not read');
        if ($head['type'] === self::INLINE) {
            $most = min($head['length'], self::MOST_PACKED);
            yield $head['packed'] === 0 ? substr($data, 21) : BtrfsPacked::unpack($head['packed'], substr($data, 21), $most);

            return;
        }
        $far = strlen($data) >= 53 ? unpack('Pplace/Pheld/Pfrom/Plength', $data, 21) : false;
        if ($far === false || min($far['place'], $far['held'], $far['from'], $far['length']) < 0) {
            throw UnreadableVolume::damaged('where a content lies is not said as it can be');
        }
        if ($far['place'] === 0 || $head['type'] !== self::REGULAR) {
            yield from self::zeros($far['length']);
        } elseif ($head['packed'] !== 0) {
            yield $this->unpacked($head['packed'], $head['length'], $far);
        } else {
            for ($done = 0; $done < $far['length']; $done += $some) {
                $some = min(self::AT_ONCE, $far['length'] - $done);
                yield $this->trees->read($far['place'] + $far['from'] + $done, $some);
            }
        }
    }

    /** @param  array{place: int, held: int, from: int, length: int}  $far */
    private function unpacked(int $how, int $length, array $far): string
    {
        if (max($length, $far['held']) > self::MOST_PACKED || $length < $far['from'] + $far['length']) {
            throw UnreadableVolume::damaged('what is compressed is longer than it can be');
        }
        $bytes = BtrfsPacked::unpack($how, $this->trees->read($far['place'], $far['held']), $length);

        return substr(str_pad($bytes, $length, "\0"), $far['from'], $far['length']);
    }
}
