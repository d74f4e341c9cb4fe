<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Generator;

/**
 * Which blocks of a disk as it is now are not as they were at a point. Read is what holds something on either side; and where it is known
 * that the disk is as another point had it, but for some areas, only those areas and what differs between the two points.
 */
final class DiskDifference
{
    private const AT_ONCE = 16;

    /** Bytes of the disk that were read. */
    public int $read = 0;

    /** Blocks of which nobody knows what they were at the point. */
    public int $unknown = 0;

    /**
     * @param  iterable<array{int, int}>  $held  areas of the disk that hold something, in order
     * @param  PointOfDisk|null  $known  what the disk is like outside the areas that changed; null if all of it is compared
     * @param  iterable<array{int, int}>  $changed  those areas, in order
     * @param  (Closure(int): void)|null  $progress  told how far into the disk it is
     */
    public function __construct(
        private readonly PointOfDisk $point,
        private readonly Disk $now,
        private readonly iterable $held,
        private readonly ?PointOfDisk $known = null,
        private readonly iterable $changed = [],
        private readonly ?Closure $progress = null,
    ) {
    }

    /** @return Generator<int, string> number => bytes of the block as it is now, in order */
    public function blocks(): Generator
    {
        $held = new AreaWalk($this->held);
        $changed = new AreaWalk($this->changed);
        $known = $this->known === null ? null : (fn () => yield from $this->known->pieces())();
        foreach ($this->point->pieces() as [$first, $behind, $blocks]) {
            $here = $held->blocks($first, $behind);
            $maybe = $known === null ? $here + $blocks : $changed->blocks($first, $behind) + self::other($blocks, $known->current()[2]);
            $known?->next();
            ksort($maybe);
            foreach (self::runs(array_keys($maybe)) as $run) {
                yield from $this->differing($run, $blocks, $here);
            }
            $this->progress === null || ($this->progress)(min($this->point->size(), $behind * Blocks::BYTES));
        }
    }

    /**
     * Blocks that two points have otherwise.
     *
     * @param  array<int, PlannedBlock>  $one
     * @param  array<int, PlannedBlock>  $other
     * @return array<int, true>
     */
    private static function other(array $one, array $other): array
    {
        $differ = [];
        foreach ($one + $other as $number => $block) {
            if (! $block->isKnown() || ($one[$number]->digest ?? '') !== ($other[$number]->digest ?? '')) {
                $differ[$number] = true;
            }
        }

        return $differ;
    }

    /**
     * @param  list<int>  $numbers
     * @return iterable<non-empty-list<int>>
     */
    private static function runs(array $numbers): iterable
    {
        $run = [];
        foreach ($numbers as $number) {
            if ($run !== [] && (count($run) >= self::AT_ONCE || $number !== end($run) + 1)) {
                yield $run;
                $run = [];
            }
            $run[] = $number;
        }
        if ($run !== []) {
            yield $run;
        }
    }

    /**
     * @param  non-empty-list<int>  $run
     * @param  array<int, PlannedBlock>  $blocks
     * @param  array<int, true>  $here
     * @return iterable<int, string>
     */
    private function differing(array $run, array $blocks, array $here): iterable
    {
        $size = $this->point->size();
        $from = $run[0] * Blocks::BYTES;
        $length = min($size, (end($run) + 1) * Blocks::BYTES) - $from;
        $isZero = array_intersect_key(array_flip($run), $here) === [];
        $bytes = $isZero ? str_repeat("\0", $length) : $this->now->read($from, $length);
        $this->read += $isZero ? 0 : $length;
        foreach ($run as $i => $number) {
            $one = substr($bytes, $i * Blocks::BYTES, Blocks::BYTES);
            $block = $blocks[$number] ?? null;
            if ($block !== null && ! $block->isKnown()) {
                $this->unknown++;
            } elseif ($block === null ? ! Blocks::isZero($one) : Blocks::digest($one) !== $block->digest) {
                yield $number => $one;
            }
        }
    }
}
