<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Kaiseki\Core\Archive\ContentSink;

/**
 * Writes a disk as it was at a point, from its beginning to its end, each block checked before it is written. What cannot be had from
 * its own set is had from another that holds the same, and otherwise left as zeros and told.
 */
final class DiskCopy
{
    /** Blocks that are read at once. */
    private const AT_ONCE = 16;

    /** Blocks of which it is told that they are missing; of more only the count. */
    private const TOLD = 1000;

    /** @var list<int> numbers of blocks that could not be had, the first of them */
    public array $missing = [];

    public int $missingCount = 0;

    /** Bytes that were written; the rest are holes. */
    public int $bytes = 0;

    private int $hole = 0;

    /** @param  (Closure(int): void)|null  $progress  told how far into the disk it is */
    public function __construct(
        private readonly PointOfDisk $point,
        public readonly BlockReading $reading,
        private readonly ?Closure $progress = null,
    ) {
    }

    /** @throws \Kaiseki\Core\Files\UnableToRestore if it cannot be written */
    public function to(ContentSink $sink): void
    {
        $size = $this->point->size();
        foreach ($this->point->pieces() as [$first, $behind, $blocks]) {
            $at = $first;
            foreach (self::runs($blocks) as $run) {
                $number = array_key_first($run);
                $this->hole += ($number - $at) * Blocks::BYTES;
                foreach ($this->reading->bytes($run) as $i => $bytes) {
                    $this->put($sink, $i, $bytes, $size);
                }
                $at = $number + count($run);
                $this->progress === null || ($this->progress)(min($size, $at * Blocks::BYTES));
            }
            $this->hole += min($size, $behind * Blocks::BYTES) - min($size, $at * Blocks::BYTES);
        }
        $this->hole > 0 && $sink->hole($this->hole);
        $this->hole = 0;
    }

    private function put(ContentSink $sink, int $number, ?string $bytes, int $size): void
    {
        if ($bytes === null) {
            $this->missingCount++;
            if (count($this->missing) < self::TOLD) {
                $this->missing[] = $number;
            }
            $this->hole += Blocks::length($number, $size);

            return;
        }
        if ($this->hole > 0) {
            $sink->hole($this->hole);
            $this->hole = 0;
        }
        $sink->data($bytes);
        $this->bytes += strlen($bytes);
    }

    /**
     * Neighbours of one set together.
     *
     * @param  array<int, PlannedBlock>  $blocks  in order
     * @return iterable<non-empty-array<int, PlannedBlock>>
     */
    private static function runs(array $blocks): iterable
    {
        $run = [];
        foreach ($blocks as $number => $block) {
            $last = $run === [] ? null : $run[$number - 1] ?? null;
            if ($last !== null && ($last->level !== $block->level || $last->state !== $block->state || count($run) >= self::AT_ONCE)) {
                $last = null;
            }
            if ($last === null && $run !== []) {
                yield $run;
                $run = [];
            }
            $run[$number] = $block;
        }
        if ($run !== []) {
            yield $run;
        }
    }
}
