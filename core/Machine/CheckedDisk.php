<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk as it was at a point, read anywhere: whatever comes out of it was compared with its digest. */
final class CheckedDisk implements SparseDisk
{
    /** Pieces and blocks that are held at once. */
    private const PIECES = 8;

    private const BLOCKS = 128;

    /** Blocks that are read in one go. */
    private const AT_ONCE = 32;

    /** @var array<int, array<int, PlannedBlock>> number of a piece => its blocks */
    private array $pieces = [];

    /** @var array<int, string> number of a block => its bytes */
    private array $blocks = [];

    public function __construct(private readonly PointOfDisk $point, private readonly BlockReading $reading)
    {
    }

    public function size(): int
    {
        return $this->point->size();
    }

    public function read(int $from, int $length): string
    {
        $end = min($this->size(), $from + $length);
        $all = '';
        while ($from < $end) {
            $number = intdiv($from, Blocks::BYTES);
            $within = $from - $number * Blocks::BYTES;
            isset($this->blocks[$number]) || $this->gather($number, intdiv($end - 1, Blocks::BYTES) + 1);
            $bytes = substr($this->block($number), $within, $end - $from);
            $all .= $bytes;
            $from += strlen($bytes);
        }

        return $all;
    }

    public function stretch(int $from, int $most): array
    {
        $end = min($this->size(), $from + $most);
        $number = intdiv($from, Blocks::BYTES);
        $isZeros = $this->planned($number) === null;
        for ($at = ($number + 1) * Blocks::BYTES; $at < $end && ($this->planned(intdiv($at, Blocks::BYTES)) === null) === $isZeros;) {
            $at += Blocks::BYTES;
        }

        return [min($at, $end) - $from, $isZeros];
    }

    /** Those of a stretch that are read in one go, since they lie together in one image, are read before they are asked for. */
    private function gather(int $number, int $behind): void
    {
        $first = $this->planned($number);
        $run = [];
        $behind = min($behind, $number + self::AT_ONCE);
        for ($at = $number; $first !== null && $at < $behind && ! isset($this->blocks[$at]); $at++) {
            $planned = $this->planned($at);
            if ($planned === null || $planned->level !== $first->level || $planned->state !== $first->state) {
                break;
            }
            $run[$at] = $planned;
        }
        foreach (count($run) > 1 ? $this->reading->bytes($run) : [] as $at => $bytes) {
            $bytes === null || $this->keep($at, $bytes);
        }
    }

    private function keep(int $number, string $bytes): void
    {
        if (count($this->blocks) >= self::BLOCKS) {
            unset($this->blocks[array_key_first($this->blocks)]);
        }
        $this->blocks[$number] = $bytes;
    }

    private function block(int $number): string
    {
        if (isset($this->blocks[$number])) {
            return $this->blocks[$number];
        }
        $planned = $this->planned($number);
        $length = Blocks::length($number, $this->size());
        $bytes = $planned === null ? str_repeat("\0", $length) : $this->reading->bytes([$number => $planned])[$number];
        if ($bytes === null || strlen($bytes) !== $length) {
            throw UnreadableImage::because('cannot give back what lies at byte '.$number * Blocks::BYTES.' of its disk');
        }
        $this->keep($number, $bytes);

        return $bytes;
    }

    private function planned(int $number): ?PlannedBlock
    {
        $piece = PointOfDisk::pieceOf($number);
        if (! isset($this->pieces[$piece])) {
            if (count($this->pieces) >= self::PIECES) {
                unset($this->pieces[array_key_first($this->pieces)]);
            }
            $this->pieces[$piece] = $this->point->piece($piece);
        }

        return $this->pieces[$piece][$number] ?? null;
    }
}
