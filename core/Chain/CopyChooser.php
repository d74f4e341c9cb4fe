<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use Closure;

/**
 * Chooses a copy for each set so that the whole takes the least estimated time. A medium's set-up is paid once, however
 * many sets are read from it; so the choice for one set depends on the others. Media without set-up never matter. Every
 * subset of the media that matter is tried while there are at most eight; beyond that a descent from several starts.
 */
final class CopyChooser
{
    private const TRY_ALL_UP_TO = 8;

    /** @var list<list<array{float, int, SetCopy}>> for each set: seconds, media that matter as bits or list index, copy */
    private array $choices = [];

    /** @var array<string, int> medium => its number */
    private array $media = [];

    /** @var list<float> */
    private array $setup = [];

    private function __construct(private readonly Route $route)
    {
    }

    /**
     * @param  list<array{BackupSet, int}>  $pieces  sets in the order of reading, and the bytes to read of each
     * @param  (Closure(SetCopy, BackupSet): bool)|null  $allowed  copies that may be read; all without it
     * @return ReadingList|null null if some set has no copy that may be read
     */
    public static function choose(array $pieces, Route $route, ?Closure $allowed = null): ?ReadingList
    {
        $chooser = new self($route);
        foreach ($pieces as [$set, $bytes]) {
            $copies = array_filter($set->readableCopies(), fn (SetCopy $copy): bool => $route->knows($copy->store) && ($allowed === null || $allowed($copy, $set)));
            if ($copies === []) {
                return null;
            }
            $chooser->choices[] = array_map(fn (SetCopy $copy): array => [$route->seconds($copy->store, $bytes), $chooser->mediaOf($copy), $copy], array_values($copies));
        }
        $count = count($chooser->media);
        $exact = $count <= self::TRY_ALL_UP_TO;
        $best = $exact ? $chooser->tryAll($count) : $chooser->descend($count);
        $readings = [];
        foreach ($pieces as $i => [$set, $bytes]) {
            [$seconds, , $copy] = $chooser->choices[$i][$best[$i]];
            $readings[] = new Reading($set, $copy, $bytes, $seconds);
        }
        $used = 0;
        foreach ($best as $i => $choice) {
            $used |= $chooser->choices[$i][$choice][1];
        }
        $setup = $chooser->setupOf($used);

        return new ReadingList($readings, $setup, $setup + array_sum(array_map(fn (Reading $reading): float => $reading->seconds, $readings)), $exact);
    }

    /** The media of a copy that cost set-up, as bits. Beyond 62 media the rest share the last bit, which only makes the plan worse, not wrong. */
    private function mediaOf(SetCopy $copy): int
    {
        $seconds = $this->route->setupSeconds($copy->store);
        $bits = 0;
        if ($seconds > 0) {
            foreach ($copy->mediaKeys() as $medium) {
                if (! isset($this->media[$medium])) {
                    $this->media[$medium] = count($this->setup);
                    $this->setup[] = $seconds;
                }
                $bits |= 1 << min(62, $this->media[$medium]);
            }
        }

        return $bits;
    }

    private function setupOf(int $bits): float
    {
        $sum = 0.0;
        foreach ($this->setup as $number => $seconds) {
            $sum += ($bits >> min(62, $number)) & 1 ? $seconds : 0.0;
        }

        return $sum;
    }

    /** @return list<int> */
    private function tryAll(int $count): array
    {
        $best = null;
        $least = INF;
        for ($open = 0; $open < 1 << $count; $open++) {
            $chosen = $this->within($open);
            if ($chosen !== null && ($cost = $this->cost($chosen)) < $least) {
                [$best, $least] = [$chosen, $cost];
            }
        }
        assert($best !== null);

        return $best;
    }

    /**
     * The quickest copy of each set among those on the open media; null if a set has none there.
     *
     * @return list<int>|null
     */
    private function within(int $open): ?array
    {
        $chosen = [];
        foreach ($this->choices as $copies) {
            $pick = null;
            foreach ($copies as $i => [$seconds, $bits]) {
                if (($bits & ~$open) === 0 && ($pick === null || $seconds < $copies[$pick][0])) {
                    $pick = $i;
                }
            }
            if ($pick === null) {
                return null;
            }
            $chosen[] = $pick;
        }

        return $chosen;
    }

    /** @param  list<int>  $chosen */
    private function cost(array $chosen): float
    {
        $used = 0;
        $sum = 0.0;
        foreach ($chosen as $i => $choice) {
            $sum += $this->choices[$i][$choice][0];
            $used |= $this->choices[$i][$choice][1];
        }

        return $sum + $this->setupOf($used);
    }

    /**
     * From all media open, from each alone, and from none: opens or closes one medium as long as that helps.
     *
     * @return list<int>
     */
    private function descend(int $count): array
    {
        $count = min(63, $count);
        $all = $count >= 63 ? PHP_INT_MAX : (1 << $count) - 1;
        $best = null;
        $least = INF;
        foreach ([$all, 0, ...array_map(fn (int $n): int => 1 << $n, range(0, $count - 1))] as $start) {
            $open = $start;
            $chosen = $this->within($open);
            $cost = $chosen === null ? INF : $this->cost($chosen);
            for ($improved = true; $improved;) {
                $improved = false;
                for ($n = 0; $n < $count; $n++) {
                    $other = $this->within($open ^ (1 << $n));
                    if ($other !== null && ($otherCost = $this->cost($other)) < $cost - 1e-9) {
                        [$open, $chosen, $cost, $improved] = [$open ^ (1 << $n), $other, $otherCost, true];
                    }
                }
            }
            if ($cost < $least) {
                [$best, $least] = [$chosen, $cost];
            }
        }
        assert($best !== null);

        return $best;
    }
}
