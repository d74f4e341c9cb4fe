<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Kaiseki\Core\Archive\ContentSink;
use Kaiseki\Core\Archive\UnreadableArchive;

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

    /** Blocks that came from another set than their own, since that one's was damaged or gone. */
    public int $bridged = 0;

    /** Bytes that were written; the rest are holes. */
    public int $bytes = 0;

    /** @var array<int, string> level => why its image is not read any more */
    public array $lost = [];

    private int $hole = 0;

    /**
     * @param  array<int, Layer>  $layers  level => image of that set; those that cannot be read are not there
     * @param  (Closure(PlannedBlock): ?string)|null  $elsewhere  gives the bytes of a block from another set; they are checked
     * @param  (Closure(int): void)|null  $progress  told how far into the disk it is
     */
    public function __construct(
        private readonly PointOfDisk $point,
        private array $layers,
        private readonly ?Closure $elsewhere = null,
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
                foreach ($this->bytesOf($run) as $i => $bytes) {
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

    /**
     * @param  non-empty-array<int, PlannedBlock>  $run
     * @return array<int, string|null> number => its bytes, which are right; null for what cannot be had
     */
    private function bytesOf(array $run): array
    {
        $first = array_key_first($run);
        $block = $run[$first];
        $all = match ($block->state) {
            BlockState::Here => $this->fromLayer($block->level, $first, count($run)),
            BlockState::Partly => $this->fromLayers($block->level, $first, count($run)),
            default => '',
        };
        $bytes = [];
        foreach ($run as $number => $block) {
            $one = substr($all, ($number - $first) * Blocks::BYTES, Blocks::BYTES);
            $bytes[$number] = $block->isKnown() && Blocks::digest($one) === $block->digest ? $one : $this->bridge($block);
        }

        return $bytes;
    }

    private function bridge(PlannedBlock $block): ?string
    {
        $bytes = $block->isKnown() && $this->elsewhere !== null ? ($this->elsewhere)($block) : null;
        if ($bytes === null || Blocks::digest($bytes) !== $block->digest) {
            return null;
        }
        $this->bridged++;

        return $bytes;
    }

    private function fromLayer(int $level, int $number, int $count): string
    {
        if (! isset($this->layers[$level])) {
            return '';
        }
        $all = '';
        try {
            foreach ($this->layers[$level]->read($number * Blocks::BYTES, $count * Blocks::BYTES) as [$length, $bytes]) {
                $all .= $bytes ?? str_repeat("\0", $length);
            }
        } catch (UnreadableImage|UnreadableArchive $unreadable) {
            $this->lost[$level] ??= $unreadable->getMessage();
        }

        return $all;
    }

    /** Of which the set holds some, and the ones below it the rest. */
    private function fromLayers(int $level, int $number, int $count): string
    {
        $below = array_filter($this->layers, fn (int $at): bool => $at >= $level, ARRAY_FILTER_USE_KEY);
        if ($below === []) {
            return '';
        }
        ksort($below);
        try {
            return (new LayeredDisk(array_values($below)))->read($number * Blocks::BYTES, $count * Blocks::BYTES);
        } catch (UnreadableImage|UnreadableArchive $unreadable) {
            $this->lost[$level] ??= $unreadable->getMessage();

            return '';
        }
    }
}
