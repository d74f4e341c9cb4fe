<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;

/** Compares a disk of a machine that has run with what it was at a point, but for the blocks that were written to since. */
final class UnwrittenCheck
{
    private const AT_ONCE = 16;

    /** Blocks that were compared, those that were written to since, and those that are not what they were. */
    public int $compared = 0;

    public int $written = 0;

    public int $wrong = 0;

    private ?AreaWalk $holding = null;

    /**
     * @param  iterable<array{int, int}>  $areas  that were written to: bytes, in order
     * @param  (Closure(int): void)|null  $progress  told how many bytes were gone through
     * @param  iterable<array{int, int}>|null  $held  areas that hold something, in order: the rest is not read, it is zeros
     */
    public function __construct(
        private readonly PointOfDisk $point,
        private readonly Disk $disk,
        private readonly iterable $areas,
        private readonly ?Closure $progress = null,
        private readonly ?iterable $held = null,
    ) {
    }

    /** @throws UnreadableImage */
    public function isRight(): bool
    {
        $walk = new AreaWalk($this->areas);
        $this->holding = $this->held === null ? null : new AreaWalk($this->held);
        foreach ($this->point->pieces() as [$first, $behind, $blocks]) {
            for ($number = $first; $number < $behind; $number += self::AT_ONCE) {
                $this->stretch($number, min($behind, $number + self::AT_ONCE), $blocks, $walk);
            }
        }

        return $this->wrong === 0;
    }

    /** @param  array<int, PlannedBlock>  $blocks  of the point */
    private function stretch(int $first, int $behind, array $blocks, AreaWalk $walk): void
    {
        $written = $walk->blocks($first, $behind);
        $this->written += count($written);
        $size = $this->point->size();
        $length = min($size, $behind * Blocks::BYTES) - $first * Blocks::BYTES;
        $isHole = $this->holding !== null && $this->holding->blocks($first, $behind) === [];
        $bytes = match (true) {
            count($written) === $behind - $first => null,
            $isHole => str_repeat("\0", $length),
            default => $this->disk->read($first * Blocks::BYTES, $length),
        };
        for ($number = $first; $bytes !== null && $number < $behind; $number++) {
            if (isset($written[$number])) {
                continue;
            }
            $one = substr($bytes, ($number - $first) * Blocks::BYTES, Blocks::length($number, $size));
            $block = $blocks[$number] ?? null;
            $this->compared++;
            $this->wrong += ($block === null ? Blocks::isZero($one) : Blocks::digest($one) === $block->digest) ? 0 : 1;
        }
        $this->progress === null || ($this->progress)($first * Blocks::BYTES + $length);
    }
}
