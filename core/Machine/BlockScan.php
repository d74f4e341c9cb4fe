<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;

/** Reads what an image holds, once from its beginning to its end, and says of each block of it what it is. */
final class BlockScan
{
    /** Bytes that are read at once: a whole number of blocks. */
    private const AT_ONCE = 16 * Blocks::BYTES;

    /** The block that was begun: areas of one block that say different things. */
    private int $begun = -1;

    /** Bytes of it that the image holds. */
    private int $covered = 0;

    private int $read = 0;

    /** Both together. */
    private ?LayeredDisk $disk = null;

    /**
     * @param  LayeredDisk|null  $below  the disk under it; null where that is not known
     * @param  bool  $isBottom  whether nothing lies under it: what it does not hold is zeros
     * @param  (Closure(int): void)|null  $progress  told bytes that were read
     */
    public function __construct(
        private readonly Layer $image,
        private readonly ?LayeredDisk $below,
        private readonly bool $isBottom,
        private readonly ?Closure $progress = null,
    ) {
    }

    /**
     * @return iterable<BlockRun> in order; blocks that it leaves to what lies below are left out
     *
     * @throws UnreadableImage
     */
    public function runs(): iterable
    {
        $seam = $this->seam();
        foreach ($this->held() as $run) {
            if ($seam !== null && $run->number + $run->count > $seam) {
                if ($run->number > $seam) {
                    yield $this->atSeam($seam);
                }
                $seam = null;
            }
            yield $run;
        }
        if ($seam !== null) {
            yield $this->atSeam($seam);
        }
    }

    /** The block in which the disk below ends, or this one does, if they are not of one size: it is another now. */
    private function seam(): ?int
    {
        $below = $this->below?->size() ?? $this->image->size();
        $end = min($below, $this->image->size());

        return $below !== $this->image->size() && $end % Blocks::BYTES !== 0 ? intdiv($end, Blocks::BYTES) : null;
    }

    private function atSeam(int $number): BlockRun
    {
        return $this->told($number, $this->block($number), BlockState::Partly);
    }

    /** @return iterable<BlockRun> */
    private function held(): iterable
    {
        $size = $this->image->size();
        foreach ($this->image->extents() as $extent) {
            if ($extent->held === Held::Below) {
                continue;
            }
            $first = intdiv($extent->from + Blocks::BYTES - 1, Blocks::BYTES);
            $behind = $extent->to === $size ? Blocks::of($size) : intdiv($extent->to, Blocks::BYTES);
            yield from $this->edge($extent->from, min($extent->to, $first * Blocks::BYTES));
            if ($behind > $first) {
                yield from $this->ended();
                yield from $extent->held === Held::Data ? $this->data($first, $behind) : $this->zeros($first, $behind);
            }
            yield from $this->edge(max($extent->from, $first * Blocks::BYTES, $behind * Blocks::BYTES), $extent->to);
        }
        yield from $this->ended();
    }

    /**
     * An area within one block.
     *
     * @return iterable<BlockRun> the block before, if that ended
     */
    private function edge(int $from, int $to): iterable
    {
        if ($to <= $from) {
            return;
        }
        $number = intdiv($from, Blocks::BYTES);
        if ($number !== $this->begun) {
            yield from $this->ended();
            $this->begun = $number;
        }
        $this->covered += $to - $from;
    }

    /** @return iterable<BlockRun> the block of which parts were met, now that there are no more */
    private function ended(): iterable
    {
        $number = $this->begun;
        if ($number < 0) {
            return;
        }
        $isWhole = $this->covered === Blocks::length($number, $this->image->size());
        [$this->begun, $this->covered] = [-1, 0];
        if (! $isWhole && ! $this->isBottom && $this->below === null) {
            yield new BlockRun($number, BlockState::Unknown);

            return;
        }
        $bytes = $this->block($number);
        // A block of which the rest is zeros for want of anything below is all here.
        yield $this->told($number, $bytes, $isWhole || $this->isBottom ? BlockState::Here : BlockState::Partly);
    }

    /**
     * A block as it is with the image over what lies below.
     *
     * @throws UnreadableImage
     */
    private function block(int $number): string
    {
        $this->disk ??= $this->below?->under($this->image) ?? new LayeredDisk([$this->image]);

        return $this->disk->read($number * Blocks::BYTES, Blocks::BYTES);
    }

    /** @return iterable<BlockRun> */
    private function data(int $first, int $behind): iterable
    {
        $number = $first;
        for ($from = $first * Blocks::BYTES, $to = min($behind * Blocks::BYTES, $this->image->size()); $from < $to; $from += $length) {
            $length = min(self::AT_ONCE, $to - $from);
            $bytes = '';
            foreach ($this->image->read($from, $length) as [, $held]) {
                $bytes .= $held;
            }
            if (strlen($bytes) !== $length) {
                throw UnreadableImage::damaged("at byte $from of its disk it does not hold what it said");
            }
            for ($i = 0; $i < $length; $i += Blocks::BYTES) {
                yield $this->told($number++, $length <= Blocks::BYTES ? $bytes : substr($bytes, $i, Blocks::BYTES), BlockState::Here);
            }
        }
    }

    /** @return iterable<BlockRun> */
    private function zeros(int $first, int $behind): iterable
    {
        if (! $this->isBottom) {
            yield new BlockRun($first, BlockState::Zeros, $behind - $first);
        }
    }

    private function told(int $number, string $bytes, BlockState $state): BlockRun
    {
        $this->read += strlen($bytes);
        if ($this->progress !== null && $number % 256 === 0) {
            ($this->progress)($this->read);
        }

        return Blocks::isZero($bytes) && $state === BlockState::Here
            ? new BlockRun($number, BlockState::Zeros)
            : new BlockRun($number, $state, 1, Blocks::digest($bytes));
    }
}
