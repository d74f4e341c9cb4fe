<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** Where the content of an inode lies: by extents, or by the older lists of blocks. */
final class ExtMap
{
    private const DEEPEST = 5;

    /** Bytes that are read at once. */
    private const AT_ONCE = 1 << 20;

    /** The block of the file that comes next: none is told twice, whatever the tree says. */
    private int $next = 0;

    private readonly int $count;

    public function __construct(private readonly Disk $disk, private readonly int $blockSize, private readonly ExtInode $inode)
    {
        $this->count = intdiv($inode->size + $blockSize - 1, $blockSize);
    }

    /** @return iterable<string> up to the size of the file; what lies nowhere is zeros */
    public function content(): iterable
    {
        $this->next = 0;
        $left = $this->inode->size;
        foreach ($this->runs() as [$at, $blocks]) {
            $length = min($left, $blocks * $this->blockSize);
            for ($done = 0; $done < $length; $done += strlen($bytes)) {
                $wanted = min($length - $done, self::AT_ONCE);
                $bytes = $at === 0 ? str_repeat("\0", $wanted) : $this->disk->read($at * $this->blockSize + $done, $wanted);
                if (strlen($bytes) !== $wanted) {
                    throw UnreadableVolume::damaged("a content is said to lie at block $at");
                }
                yield $bytes;
            }
            $left -= $length;
        }
    }

    /** @return list<array{int, int, int}> block of the file, block of the volume, 0 for none, and how many: together all of the file */
    public function places(): array
    {
        [$this->next, $at, $places] = [0, 0, []];
        foreach ($this->runs() as [$block, $count]) {
            $places[] = [$at, $block, $count];
            $at += $count;
        }

        return $places;
    }

    /** @return iterable<array{int, int}> block of the volume, 0 for none, and how many; together all of the file */
    private function runs(): iterable
    {
        $found = $this->inode->hasExtents() ? $this->extents($this->inode->map, 0) : $this->lists();
        foreach ($found as [$block, $at, $count]) {
            if ($block < $this->next || $block >= $this->count) {
                continue;
            }
            if ($block > $this->next) {
                yield [0, $block - $this->next];
            }
            $count = min($count, $this->count - $block);
            yield [$at, $count];
            $this->next = $block + $count;
        }
        if ($this->next < $this->count) {
            yield [0, $this->count - $this->next];
        }
    }

    /** @return iterable<array{int, int, int}> block of the file, block of the volume, how many */
    private function extents(string $node, int $level): iterable
    {
        $head = strlen($node) < 12 ? false : unpack('vmagic/vcount/vmost/vdepth', $node);
        if ($head === false || $head['magic'] !== 0xF30A || $level > self::DEEPEST || strlen($node) < $head['count'] * 12 + 12) {
            throw UnreadableVolume::damaged('where a content lies is not said as it can be');
        }
        for ($i = 1; $i <= $head['count'] && $this->next < $this->count; $i++) {
            if ($head['depth'] > 0) {
                $index = unpack('Vblock/Vlow/vhigh', $node, 12 * $i);
                $at = $index === false ? 0 : ($index['high'] << 32) | $index['low'];
                yield from $this->extents($this->disk->read($at * $this->blockSize, $this->blockSize), $level + 1);
            } else {
                $extent = unpack('Vblock/vcount/vhigh/Vlow', $node, 12 * $i);
                assert($extent !== false);
                $isWritten = $extent['count'] <= 32768;
                $at = ($extent['high'] << 32) | $extent['low'];
                yield [$extent['block'], $isWritten ? $at : 0, $isWritten ? $extent['count'] : $extent['count'] - 32768];
            }
        }
    }

    /** @return iterable<array{int, int, int}> */
    private function lists(): iterable
    {
        $perBlock = intdiv($this->blockSize, 4);
        for ($i = 0; $i < 12; $i++) {
            yield [$i, unpack('V', $this->inode->map, 4 * $i)[1] ?? 0, 1];
        }
        $first = 12;
        foreach ([1, 2, 3] as $depth) {
            yield from $this->indirect(unpack('V', $this->inode->map, 44 + 4 * $depth)[1] ?? 0, $depth, $first);
            $first += $perBlock ** $depth;
        }
    }

    /** @return iterable<array{int, int, int}> what a list of lists says, from a block of the file on */
    private function indirect(int $at, int $depth, int $first): iterable
    {
        if ($at === 0 || $first >= $this->count) {
            return;
        }
        $span = intdiv($this->blockSize, 4) ** ($depth - 1);
        foreach (array_values(unpack('V*', $this->disk->read($at * $this->blockSize, $this->blockSize)) ?: []) as $i => $block) {
            if ($first + $i * $span >= $this->count) {
                return;
            }
            if ($depth > 1) {
                yield from $this->indirect($block, $depth - 1, $first + $i * $span);
            } elseif ($block !== 0) {
                yield [$first + $i, $block, 1];
            }
        }
    }
}
