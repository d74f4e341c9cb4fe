<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** Where the content of a fork of an inode of XFS lies. */
final class XfsMap
{
    private const AT_ONCE = 1 << 20;

    private const DEEPEST = 9;

    private const MOST_EXTENTS = 1 << 20;

    /** Magic of a block of the tree => bytes of its head. */
    private const HEADS = ['BMAP' => 24, 'BMA3' => 72];

    /** @var list<array{int, int|null, int}>|null block of the file, block of the volume (null: not written), how many */
    private ?array $extents = null;

    public function __construct(
        private readonly XfsGeometry $geometry,
        private readonly int $format,
        private readonly string $fork,
        private readonly int $count,
    ) {
    }

    public static function ofContent(XfsGeometry $geometry, XfsInode $inode): self
    {
        return new self($geometry, $inode->format, $inode->fork, $inode->extents);
    }

    public static function ofAttributes(XfsGeometry $geometry, XfsInode $inode): self
    {
        return new self($geometry, $inode->attributesFormat, $inode->attributesFork, $inode->attributeExtents);
    }

    /**
     * @param  int  $size  bytes of all of it
     * @return iterable<string>
     */
    public function content(int $size): iterable
    {
        $at = 0;
        foreach ($this->extents() as [$first, $block, $count]) {
            $begins = min($size, $first * $this->geometry->blockSize);
            yield from self::zeros($begins - $at);
            $length = max(0, min($size - $begins, $count * $this->geometry->blockSize));
            for ($done = 0; $done < $length; $done += $some) {
                $some = min(self::AT_ONCE, $length - $done);
                yield $block === null ? str_repeat("\0", $some) : $this->geometry->read($block, $done, $some);
            }
            $at = $begins + $length;
        }
        yield from self::zeros($size - $at);
    }

    /** @return iterable<string> */
    private static function zeros(int $length): iterable
    {
        for (; $length > 0; $length -= $some) {
            $some = min(self::AT_ONCE, $length);
            yield str_repeat("\0", $some);
        }
    }

    /** Some bytes of it; what lies nowhere is zeros. */
    public function read(int $from, int $length): string
    {
        $all = str_repeat("\0", $length);
        $size = $this->geometry->blockSize;
        foreach ($this->extents() as [$first, $block, $count]) {
            [$begins, $ends] = [max($from, $first * $size), min($from + $length, ($first + $count) * $size)];
            if ($begins < $ends && $block !== null) {
                $bytes = $this->geometry->read($block, $begins - $first * $size, $ends - $begins);
                $all = substr_replace($all, $bytes, $begins - $from, $ends - $begins);
            }
        }

        return $all;
    }

    /** @return list<array{int, int|null, int}> in their order */
    public function extents(): array
    {
        if ($this->extents === null) {
            $records = match ($this->format) {
                XfsInode::EXTENTS => $this->count <= intdiv(strlen($this->fork), 16) ? substr($this->fork, 0, 16 * $this->count) : null,
                XfsInode::TREE => $this->root(),
                default => '',
            };
            $records !== null || throw UnreadableVolume::damaged('an inode has more extents than there is room for');
            $this->extents = self::decoded($records);
        }

        return $this->extents;
    }

    /** Records of all leaves of a tree whose root stands in the inode. */
    private function root(): string
    {
        $head = strlen($this->fork) >= 4 ? unpack('nlevel/ncount', $this->fork) : false;
        $most = intdiv(strlen($this->fork) - 4, 16);
        if ($head === false || $head['count'] > $most || $head['level'] < 1 || $head['level'] > self::DEEPEST) {
            throw UnreadableVolume::damaged('where a content lies is not said as it can be');
        }

        return $this->below(substr($this->fork, 4 + 8 * $most, 8 * $head['count']), $head['level'] - 1);
    }

    /** @param  string  $pointers  to nodes of a level */
    private function below(string $pointers, int $level): string
    {
        $all = '';
        foreach ($pointers === '' ? [] : (unpack('J*', $pointers) ?: []) as $block) {
            $bytes = $this->geometry->read($block, 0, $this->geometry->blockSize);
            $skip = self::HEADS[substr($bytes, 0, 4)] ?? 0;
            $head = unpack('nlevel/ncount', $bytes, 4);
            $most = intdiv(strlen($bytes) - $skip, 16);
            if ($skip === 0 || $head === false || $head['level'] !== $level || $head['count'] > $most) {
                throw UnreadableVolume::damaged('where a content lies is not said as it can be');
            }
            $all .= $level === 0
                ? substr($bytes, $skip, 16 * $head['count'])
                : $this->below(substr($bytes, $skip + 8 * $most, 8 * $head['count']), $level - 1);
            strlen($all) <= 16 * self::MOST_EXTENTS || throw UnreadableVolume::damaged('a content lies in more pieces than it can');
        }

        return $all;
    }

    /**
     * 128 bits: 1 that it was not written, 54 of its place in the file, 52 of its block, 21 how many.
     *
     * @return list<array{int, int|null, int}>
     */
    private static function decoded(string $records): array
    {
        $extents = [];
        $behind = 0;
        for ($at = 0; $at < strlen($records); $at += 16) {
            [1 => $high, 2 => $low] = unpack('J2', $records, $at) ?: [1 => 0, 2 => 0];
            $first = ($high >> 9) & ((1 << 54) - 1);
            $block = (($high & 0x1FF) << 43) | (($low >> 21) & ((1 << 43) - 1));
            $count = $low & 0x1FFFFF;
            if ($first < $behind || $count === 0) {
                throw UnreadableVolume::damaged('a content is said to lie at two places');
            }
            $extents[] = [$first, $high < 0 ? null : $block, $count];
            $behind = $first + $count;
        }

        return $extents;
    }
}
