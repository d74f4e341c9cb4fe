<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;

/**
 * Reads blocks of a point from the images of its sets, and compares each with its digest. What cannot be had from its own set is had from
 * another that holds the same.
 */
final class BlockReading
{
    /** Blocks that came from another set than their own, since that one's was damaged or gone. */
    public int $bridged = 0;

    /** @var array<int, string> level => why its image is not read any more */
    public array $lost = [];

    /**
     * @param  array<int, Layer>  $layers  level => image of that set; those that cannot be read are not there
     * @param  (Closure(PlannedBlock): ?string)|null  $elsewhere  gives the bytes of a block from another set; they are checked
     */
    public function __construct(private readonly array $layers, private readonly ?Closure $elsewhere = null)
    {
    }

    /**
     * @param  non-empty-array<int, PlannedBlock>  $run  neighbours of one set that say the same
     * @return array<int, string|null> number => its bytes, which are right; null for what cannot be had
     */
    public function bytes(array $run): array
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
