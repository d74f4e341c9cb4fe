<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Generator;

/**
 * A disk at a point: for each block the topmost set that says something of it. The lists are read side by side, a piece of the disk
 * at a time, so that neither the size of the disk nor the length of the chain costs memory.
 */
final readonly class PointOfDisk
{
    /** Blocks of a piece: a gigabyte of the disk at most. */
    private const PIECE = 1 << 14;

    /**
     * @param  non-empty-list<BlockList>  $lists  of the chain, the topmost first
     * @param  bool  $hasBottom  whether the last is a full: what it does not have is zeros, and otherwise not known
     */
    public function __construct(private array $lists, private bool $hasBottom)
    {
    }

    /** The number of the piece that a block lies in. */
    public static function pieceOf(int $block): int
    {
        return intdiv($block, self::PIECE);
    }

    /**
     * One piece, for who does not go through all of them.
     *
     * @return array<int, PlannedBlock> those of its blocks that are not zeros
     */
    public function piece(int $number): array
    {
        $first = $number * self::PIECE;
        $behind = min(Blocks::of($this->size()), $first + self::PIECE);

        return $this->laid(array_map(fn (BlockList $list): Generator => $list->runs($first), $this->lists), $first, $behind);
    }

    /**
     * Some of its blocks, those that are zeros too.
     *
     * @param  iterable<int>  $numbers  in order
     * @return iterable<int, PlannedBlock|null> null for zeros
     */
    public function only(iterable $numbers): iterable
    {
        [$piece, $blocks] = [-1, []];
        foreach ($numbers as $number) {
            if (self::pieceOf($number) !== $piece) {
                $piece = self::pieceOf($number);
                $blocks = $this->piece($piece);
            }
            yield $number => $blocks[$number] ?? null;
        }
    }

    /** Bytes of the disk. */
    public function size(): int
    {
        return $this->lists[0]->size;
    }

    /**
     * Piece by piece, from the beginning of the disk to its end.
     *
     * @return iterable<array{int, int, array<int, PlannedBlock>}> its first block, the one behind its last, and those blocks of it, in
     *     order, that are not zeros
     */
    public function pieces(): iterable
    {
        $walks = array_map(fn (BlockList $list): Generator => $list->runs(), $this->lists);
        for ($first = 0, $all = Blocks::of($this->size()); $first < $all; $first += self::PIECE) {
            $behind = min($all, $first + self::PIECE);
            $blocks = $this->laid($walks, $first, $behind);
            ksort($blocks);
            yield [$first, $behind, $blocks];
        }
    }

    /**
     * @param  list<Generator<BlockRun>>  $walks  of each list, as lay() takes them
     * @return array<int, PlannedBlock>
     */
    private function laid(array $walks, int $first, int $behind): array
    {
        $unsaid = new PlannedBlock(count($walks) - 1, BlockState::Unknown, '');
        $blocks = $this->hasBottom ? [] : array_fill($first, $behind - $first, $unsaid);
        for ($level = count($walks) - 1; $level >= 0; $level--) {
            $this->lay($blocks, $walks[$level], $level, $first, $behind);
        }

        return array_filter($blocks);
    }

    /**
     * Lays what a list says of a piece over what those below it say.
     *
     * @param  array<int, PlannedBlock|null>  $blocks
     * @param  Generator<BlockRun>  $walk  stands at the first run that reaches into this piece, or behind
     */
    private function lay(array &$blocks, Generator $walk, int $level, int $first, int $behind): void
    {
        // A block in which the disk ended then, and does not now, is another now.
        [$then, $now] = [$this->lists[$level]->size, $this->size()];
        for (; $walk->valid(); $walk->next()) {
            $run = $walk->current();
            if ($run->number >= $behind) {
                return;
            }
            for ($number = max($first, $run->number); $number < min($behind, $run->number + $run->count); $number++) {
                $blocks[$number] = $run->state === BlockState::Zeros
                    ? null
                    : new PlannedBlock(
                        $level,
                        Blocks::length($number, $then) === Blocks::length($number, $now) ? $run->state : BlockState::Unknown,
                        $run->digest,
                    );
            }
            if ($run->number + $run->count > $behind) {
                return; // goes on in the next piece
            }
        }
    }
}
