<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Kaiseki\Core\Archive\ByteRanges;

/** Reads a disk that was brought back from its beginning to its end, and compares each block with what it was at the point. */
final class DiskCheck
{
    private const AT_ONCE = 16 * Blocks::BYTES;

    /** Areas that are not as they were, of those the first are kept. */
    private const TOLD = 1000;

    public int $blocks = 0;

    public int $wrongCount = 0;

    /** @var list<array{int, int}> */
    private array $wrong = [];

    private ?string $zeros = null;

    /**
     * @param  Closure(int): string  $next  gives the next so many bytes of the disk, fewer at its end
     * @param  array<int, true>  $missing
     * @param  (Closure(int): void)|null  $progress
     */
    private function __construct(
        private readonly PointOfDisk $point,
        private readonly Closure $next,
        private readonly array $missing,
        private readonly ?Closure $progress,
    ) {
    }

    /**
     * @param  resource  $disk  byte by byte, at its beginning
     * @param  array<int, true>  $missing  numbers of blocks that are known to be missing: they are zeros
     * @param  (Closure(int): void)|null  $progress
     */
    public static function ofStream(PointOfDisk $point, $disk, array $missing = [], ?Closure $progress = null): self
    {
        stream_set_chunk_size($disk, self::AT_ONCE);

        return new self($point, fn (int $length): string => self::fromStream($disk, $length), $missing, $progress);
    }

    /**
     * @param  array<int, true>  $missing
     * @param  (Closure(int): void)|null  $progress
     * @param  iterable<array{int, int}>|null  $held  areas of it that hold something, in order: the rest is not read, it is zeros; null
     *     where that is not known
     */
    public static function ofDisk(
        PointOfDisk $point,
        Disk $disk,
        array $missing = [],
        ?Closure $progress = null,
        ?iterable $held = null,
    ): self {
        $at = 0;
        $walk = $held === null ? null : new AreaWalk($held);
        $zeros = str_repeat("\0", self::AT_ONCE);
        $next = function (int $length) use ($disk, $walk, $zeros, &$at): string {
            $length = max(0, min($length, $disk->size() - $at));
            $behind = intdiv($at + $length + Blocks::BYTES - 1, Blocks::BYTES);
            if ($walk !== null && $walk->blocks(intdiv($at, Blocks::BYTES), $behind) === []) {
                $at += $length;

                return $length === self::AT_ONCE ? $zeros : substr($zeros, 0, $length);
            }
            $bytes = $disk->read($at, $length);
            $at += strlen($bytes);
            $disk instanceof ReadAhead && $disk->ahead($at, self::AT_ONCE);

            return $bytes;
        };

        return new self($point, $next, $missing, $progress);
    }

    /** Whether all of it is as it was, but for what is known to be missing, and nothing lies behind its end. */
    public function isRight(): bool
    {
        $size = $this->point->size();
        foreach ($this->point->pieces() as [$first, $behind, $blocks]) {
            for ($from = $first * Blocks::BYTES, $to = min($size, $behind * Blocks::BYTES); $from < $to; $from += self::AT_ONCE) {
                $length = min(self::AT_ONCE, $to - $from);
                $this->compare(($this->next)($length), $from, $length, $blocks);
                $this->progress === null || ($this->progress)($from + $length);
            }
        }
        $this->blocks = Blocks::of($size);
        if (($this->next)(1) !== '') {
            $this->wrong($size, 1);
        }

        return $this->wrongCount === 0;
    }

    /** Where it is not as it was, in bytes of the disk. */
    public function wrongAreas(): ByteRanges
    {
        return ByteRanges::of($this->wrong);
    }

    /** @return array<int, true> the numbers of the blocks that are compared at once */
    private function here(int $from): array
    {
        return array_fill(intdiv($from, Blocks::BYTES), intdiv(self::AT_ONCE, Blocks::BYTES), true);
    }

    /** @param  resource  $disk */
    private static function fromStream($disk, int $length): string
    {
        for ($bytes = ''; strlen($bytes) < $length; $bytes .= $more) {
            $more = (string) fread($disk, $length - strlen($bytes));
            if ($more === '') {
                break;
            }
        }

        return $bytes;
    }

    /** @param  array<int, PlannedBlock>  $blocks */
    private function compare(string $bytes, int $from, int $length, array $blocks): void
    {
        $this->zeros ??= str_repeat("\0", self::AT_ONCE);
        if ($bytes === $this->zeros && array_intersect_key($this->here($from), $blocks) === []) {
            return; // most of a disk
        }
        for ($i = 0; $i < $length; $i += Blocks::BYTES) {
            $number = intdiv($from + $i, Blocks::BYTES);
            $block = isset($this->missing[$number]) ? null : $blocks[$number] ?? null;
            $wanted = min(Blocks::BYTES, $length - $i);
            $one = substr($bytes, $i, $wanted);
            if (strlen($one) !== $wanted || ! ($block === null ? Blocks::isZero($one) : Blocks::digest($one) === $block->digest)) {
                $this->wrong($from + $i, $wanted);
            }
        }
    }

    private function wrong(int $from, int $length): void
    {
        $this->wrongCount++;
        if (count($this->wrong) < self::TOLD) {
            $this->wrong[] = [$from, $from + $length];
        }
    }
}
