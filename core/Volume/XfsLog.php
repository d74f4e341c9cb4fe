<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/**
 * The log of XFS, as far as it tells whether something in it is still to be done: "XFS Algorithms & Data Structures", chapter 14, and
 * xlog_find_head() and xlog_check_unmount_rec() of the kernel's fs/xfs/xfs_log_recover.c.
 */
final readonly class XfsLog
{
    /** What it counts in, whatever the disk has. */
    private const BLOCK = 512;

    private const MAGIC = 0xFEEDBABE;

    /** Blocks that may be on their way to the disk at a time, in any order: eight pieces of 256 KiB. */
    private const ON_THE_WAY = 4096;

    /** Bytes of a record that one block of its head tells of. */
    private const A_HEAD = 32_768;

    /** Of an operation: that the volume was taken off its place in the tree, in order. */
    private const UNMOUNTED = 0x20;

    /**
     * @param  int  $from  bytes from the beginning of the volume
     * @param  int  $blocks  of 512 bytes
     */
    public function __construct(private Disk $disk, private int $from, private int $blocks)
    {
    }

    /** Whether the last that was written says that all before it was done. */
    public function isClean(): bool
    {
        $head = $this->head();
        $least = max(0, $head - self::ON_THE_WAY);
        $before = $this->read($least, $head - $least);
        for ($at = $head - 1; $at >= $least; $at--) {
            $record = substr($before, ($at - $least) * self::BLOCK, self::BLOCK);
            if ((unpack('N', $record)[1] ?? 0) === self::MAGIC) {
                return $this->isUnmounting($at, $record, $head) && ! $this->goesOn($head);
            }
        }

        return false;
    }

    private function isUnmounting(int $at, string $record, int $head): bool
    {
        $is = unpack('x8/Nversion/Nlength/x24/Noperations', $record) ?: ['version' => 0, 'length' => 0, 'operations' => 0];
        $size = unpack('N', $record, 320)[1] ?? 0;
        $heads = ($is['version'] & 2) !== 0 && $size > self::A_HEAD ? intdiv($size + self::A_HEAD - 1, self::A_HEAD) : 1;
        $end = $at + $heads + intdiv($is['length'] + self::BLOCK - 1, self::BLOCK);
        $operation = $this->read($at + $heads, 1);
        $flags = strlen($operation) === self::BLOCK ? ord($operation[9]) : 0;

        return $is['operations'] === 1 && $end === $head && ($flags & self::UNMOUNTED) !== 0;
    }

    /** Whether there is something behind the end that was written in the same round: what came before it is missing then. */
    private function goesOn(int $head): bool
    {
        $round = $this->round($head - 1);
        $count = min(self::ON_THE_WAY, $this->blocks - $head);
        $behind = $this->read($head, $count);
        for ($i = 0; $i < $count; $i++) {
            if (self::roundOf(substr($behind, $i * self::BLOCK, 8)) === $round) {
                return true;
            }
        }

        return false;
    }

    /** The block behind the last that was written: rounds are counted, and only there one is less than the one before it. */
    private function head(): int
    {
        [$first, $low, $high] = [$this->round(0), 0, $this->blocks];
        while ($high - $low > 1) {
            $middle = intdiv($low + $high, 2);
            $this->round($middle) === $first ? $low = $middle : $high = $middle;
        }

        return $high;
    }

    private function round(int $block): int
    {
        return self::roundOf($this->read($block, 1));
    }

    /** It takes the place of the first number of each block but the first of a record, where it is the second. */
    private static function roundOf(string $block): int
    {
        $is = strlen($block) >= 8 ? unpack('Nfirst/Nsecond', $block) : false;

        return $is === false ? 0 : ($is['first'] === self::MAGIC ? $is['second'] : $is['first']);
    }

    private function read(int $block, int $count): string
    {
        return $count < 1 ? '' : $this->disk->read($this->from + $block * self::BLOCK, $count * self::BLOCK);
    }
}
