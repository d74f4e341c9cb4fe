<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive\Internal;

use Closure;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Archive\UnreadableArchive;

/** Where the stored pieces of a sparse file belong (GNU tar manual, "Storing Sparse Files": old GNU, 0.0, 0.1, 1.0). */
final readonly class SparseMap
{
    /** Larger than any file system in use can hold as one file; a claim beyond it is not worth the time. */
    private const LARGEST = 1 << 50;

    private const MOST_PIECES = 4_000_000;

    private function __construct(
        /** @var list<array{int, int}> */
        public array $pieces,
        public int $realSize,
        /** Bytes of the member that are map, not content. */
        public int $bytesInContent,
    ) {
    }

    /**
     * @param  array<string, string>  $records
     * @param  Closure(int): string  $read  reads on in the archive
     *
     * @throws UnreadableArchive
     */
    public static function of(Header $header, array $records, int $stored, int $position, Closure $read): ?self
    {
        if ($header->type === 'S') {
            return self::checked(self::old($header, $read), Header::number($header->block, 483, 12), 0, $stored, $position);
        }
        $real = $records['GNU.sparse.realsize'] ?? ($records['GNU.sparse.size'] ?? null);
        if (($records['GNU.sparse.major'] ?? '') === '1' && $real !== null) {
            [$pieces, $used] = self::inContent($stored, $position, $read);

            return self::checked($pieces, PaxRecords::size($real, $position), $used, $stored, $position);
        }
        if (isset($records['GNU.sparse.map']) && $real !== null) {
            return self::checked(
                array_chunk(array_map(intval(...), explode(',', $records['GNU.sparse.map'])), 2),
                PaxRecords::size($real, $position),
                0,
                $stored,
                $position,
            );
        }

        return null;
    }

    /**
     * @param  Closure(int): string  $read
     * @return list<list<int>>
     */
    private static function old(Header $header, Closure $read): array
    {
        $pieces = self::pairs($header->block, 386, 4);
        $more = $header->block[482] !== "\0";
        while ($more) {
            $block = $read(TarReader::BLOCK);
            $pieces = array_merge($pieces, self::pairs($block, 0, 21));
            $more = $block[504] !== "\0" && count($pieces) < self::MOST_PIECES;
        }

        return $pieces;
    }

    /** @return list<list<int>> */
    private static function pairs(string $block, int $at, int $count): array
    {
        $pieces = [];
        for ($i = 0; $i < $count; $i++, $at += 24) {
            if ($block[$at] === "\0" || $block[$at + 12] === "\0") {
                break;
            }
            $pieces[] = [Header::number($block, $at, 12), Header::number($block, $at + 12, 12)];
        }

        return $pieces;
    }

    /**
     * @param  Closure(int): string  $read
     * @return array{list<list<int>>, int}
     */
    private static function inContent(int $stored, int $position, Closure $read): array
    {
        $buffer = '';
        $used = $at = 0;
        $number = function () use (&$buffer, &$used, &$at, $stored, $position, $read): int {
            while (($end = strpos($buffer, "\n", $at)) === false) {
                if ($used >= $stored || strlen($buffer) - $at > 32) {
                    throw UnreadableArchive::refused('a sparse map that is not well formed', $position);
                }
                $buffer = substr($buffer, $at).$read(TarReader::BLOCK);
                $at = 0;
                $used += TarReader::BLOCK;
            }
            $value = PaxRecords::size(substr($buffer, $at, $end - $at), $position);
            $at = $end + 1;

            return $value;
        };
        $count = $number();
        if ($count > self::MOST_PIECES) {
            throw UnreadableArchive::refused('a sparse map that is too long', $position);
        }
        $pieces = [];
        for ($i = 0; $i < $count; $i++) {
            $pieces[] = [$number(), $number()];
        }

        return [$pieces, $used];
    }

    /** @param  list<list<int>>  $pieces */
    private static function checked(array $pieces, int $real, int $used, int $stored, int $position): self
    {
        $at = $sum = 0;
        $sound = [];
        foreach ($pieces as $piece) {
            if (count($piece) !== 2 || $piece[0] < $at || $piece[1] < 0 || $piece[0] > $real || $piece[1] > $real - $piece[0]) {
                throw UnreadableArchive::refused('a sparse map whose pieces overlap or lie outside', $position);
            }
            $at = $piece[0] + $piece[1];
            $sum += $piece[1];
            $sound[] = [$piece[0], $piece[1]];
        }
        if ($real > self::LARGEST || $sum !== $stored - $used) {
            throw UnreadableArchive::refused('a sparse map that does not fit its file', $position);
        }

        return new self($sound, $real, $used);
    }
}
