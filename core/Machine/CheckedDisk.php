<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk as it was at a point, read anywhere: whatever comes out of it was compared with its digest. */
final class CheckedDisk implements Disk
{
    /** Pieces and blocks that are held at once. */
    private const PIECES = 8;

    private const BLOCKS = 128;

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
            $bytes = substr($this->block($number), $within, $end - $from);
            $all .= $bytes;
            $from += strlen($bytes);
        }

        return $all;
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
        if (count($this->blocks) >= self::BLOCKS) {
            unset($this->blocks[array_key_first($this->blocks)]);
        }

        return $this->blocks[$number] = $bytes;
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
