<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Sizes of what must share the room that there is. */
final class Shares
{
    /**
     * Those that may are made smaller, each by its part of what can be spared.
     *
     * @param  array<int, int>  $sizes
     * @param  array<int, int>  $least  of those that may
     * @param  int  $grain  what is taken of one is a multiple of it
     * @return array{array<int, int>, int} the sizes, and how much they lack then
     */
    public static function shrunk(array $sizes, array $least, int $grain, int $lacks): array
    {
        $spare = [];
        foreach ($least as $i => $needs) {
            $spare[$i] = intdiv(max(0, $sizes[$i] - $needs), $grain) * $grain;
        }
        if (array_sum($spare) < $lacks) {
            return [$sizes, $lacks - (int) array_sum($spare)];
        }
        $lacks = self::up($lacks, $grain);
        while ($lacks > 0 && array_sum($spare) > 0) {
            $all = (int) array_sum($spare);
            foreach ($spare as $i => $bytes) {
                $part = min($bytes, $lacks, self::up((int) ceil($lacks * ($bytes / $all)), $grain));
                [$sizes[$i], $spare[$i], $lacks] = [$sizes[$i] - $part, $bytes - $part, $lacks - $part];
            }
        }

        return [$sizes, 0];
    }

    public static function up(int $bytes, int $grain): int
    {
        return intdiv($bytes + $grain - 1, $grain) * $grain;
    }
}
