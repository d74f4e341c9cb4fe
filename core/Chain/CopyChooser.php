<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use LogicException;

/**
 * Chooses a copy for each set so that the whole takes the least estimated time. A medium's set-up is paid once, however
 * many sets are read from it; so the choice for one set depends on the others. Only media that cost set-up and can be
 * done without matter; every subset of those is tried while there are at most eight, and beyond that a descent from
 * several starts finds a good one.
 *
 * Sets that rank their copies alike are weighed together, so that the work grows with the number of different rankings,
 * not with the number of sets.
 */
final class CopyChooser
{
    private const TRY_ALL_UP_TO = 8;

    /** With more media than this only one at a time is opened or closed. */
    private const EXCHANGE_UP_TO = 16;

    private const SHELF = '';

    /** Media beyond so many share the last bit, which makes the plan worse, not wrong. */
    private const BITS = 62;

    /**
     * @var list<list<array{float, int, SetCopy}>> for each set its copies, the quickest first: seconds, media that cost set-up as bits,
     *     copy
     */
    private array $choices = [];

    /** @var array<string, int> medium => its number */
    private array $media = [];

    /** @var list<float> seconds of set-up by medium */
    private array $setup = [];

    /** @var array<string, array{float, int}> store and media => seconds a byte, media as bits */
    private array $kinds = [];

    /** @var list<array{list<int>, list<float>}> rankings: the media of each rank as bits, and the seconds of all its sets together */
    private array $rankings = [];

    /** @var list<int> the bits of the media that can be done without */
    private array $free = [];

    /** Media that some set needs whatever is chosen, as bits. */
    private int $needed = 0;

    private function __construct(private readonly Route $route)
    {
    }

    /**
     * @param  list<array{BackupSet, int}>  $pieces  sets in the order of applying, and the bytes to read of each
     * @return ReadingList|null null if some set has no copy that may be read
     */
    public static function choose(array $pieces, Route $route, CopyRule $rule = new CopyRule): ?ReadingList
    {
        $chooser = new self($route);
        foreach ($pieces as [$set, $bytes]) {
            if (! $chooser->weigh($rule->readable($set), $bytes)) {
                return null;
            }
        }
        $chooser->rank();
        $exact = count($chooser->free) <= self::TRY_ALL_UP_TO && count($chooser->setup) <= self::BITS;
        $open = $chooser->needed | ($exact ? $chooser->tryAll() : $chooser->descend());
        $readings = [];
        $used = [];
        $total = 0.0;
        foreach ($pieces as $i => [$set, $bytes]) {
            [$seconds, $mask, $copy] = $chooser->quickest($i, $open);
            $readings[] = new Reading($set, $copy, $bytes, $seconds);
            $total += $seconds;
            foreach ($mask === 0 ? [] : $copy->mediaKeys() as $medium) {
                if (isset($chooser->media[$medium])) {
                    $used[$medium] = $chooser->setup[$chooser->media[$medium]];
                }
            }
        }

        return new ReadingList(ReadingOrder::of($readings), (float) array_sum($used), array_sum($used) + $total, $exact);
    }

    /** @return array{float, int, SetCopy} the quickest copy of a set on these media */
    private function quickest(int $piece, int $open): array
    {
        foreach ($this->choices[$piece] as $choice) {
            if (($choice[1] & ~$open) === 0) {
                return $choice;
            }
        }
        throw new LogicException('No copy lies on the media that were chosen.');
    }

    /** @param  list<SetCopy>  $copies */
    private function weigh(array $copies, int $bytes): bool
    {
        $choices = [];
        foreach ($copies as $copy) {
            $kind = $this->kinds[
                ($copy->state === CopyState::Offline ? "\0" : '').
                    ($copy->media === [] ? $copy->store : $copy->store."\0".implode("\0", $copy->media))
            ] ??= $this->kindOf($copy);
            if ($kind[0] < INF) {
                $choices[] = [$bytes * $kind[0], $kind[1], $copy];
            }
        }
        if (count($choices) > 1) {
            usort($choices, fn (array $a, array $b): int => $a[0] <=> $b[0]); // stable: of equals the first listed
        }
        $this->choices[] = $choices;

        return $choices !== [];
    }

    /** @return array{float, int} seconds a byte, INF for a store that is not known; the media that cost set-up, as bits */
    private function kindOf(SetCopy $copy): array
    {
        if (! $this->route->knows($copy->store)) {
            return [INF, 0];
        }
        $mask = 0;
        $seconds = $this->route->setupSeconds($copy->store);
        foreach ($seconds > 0 ? $copy->mediaKeys() : [] as $medium) {
            $mask |= $this->bitOf($medium, $seconds);
        }
        if ($copy->state === CopyState::Offline && $this->route->shelfSeconds > 0) {
            // One way serves for all that is carried, just as one loading does for all that is on a cartridge.
            $mask |= $this->bitOf(self::SHELF, $this->route->shelfSeconds);
        }

        return [$this->route->seconds($copy->store, 1), $mask];
    }

    private function bitOf(string $medium, float $seconds): int
    {
        if (! isset($this->media[$medium])) {
            $this->media[$medium] = count($this->setup);
            $this->setup[] = $seconds;
        }

        return 1 << min(self::BITS - 1, $this->media[$medium]);
    }

    /** Finds which media can be done without, and puts sets of one ranking together. */
    private function rank(): void
    {
        foreach ($this->choices as $copies) {
            $common = $copies[0][1];
            foreach ($copies as [, $mask]) {
                $common &= $mask;
            }
            $this->needed |= $common;
        }
        $choosable = 0;
        $together = [];
        foreach ($this->choices as $copies) {
            $masks = [];
            foreach ($copies as [, $mask]) {
                $masks[] = $mask &= ~$this->needed;
                $choosable |= $mask;
                if ($mask === 0) {
                    break; // it needs no more than what is paid in any case, and beats all that are slower
                }
            }
            $key = implode(',', $masks);
            if (! isset($together[$key])) {
                $together[$key] = [$masks, array_fill(0, count($masks), 0.0)];
            }
            foreach ($masks as $rank => $mask) {
                $together[$key][1][$rank] += $copies[$rank][0];
            }
        }
        $this->rankings = array_values($together);
        for ($bit = 0; $bit < self::BITS; $bit++) {
            if (($choosable >> $bit) & 1) {
                $this->free[] = $bit;
            }
        }
    }

    /** Seconds with these media open, of all that is to be chosen; INF if a set has no copy on them. */
    private function cost(int $open): float
    {
        $sum = 0.0;
        $used = 0;
        foreach ($this->rankings as [$masks, $seconds]) {
            foreach ($masks as $rank => $mask) {
                if (($mask & ~$open) === 0) {
                    $sum += $seconds[$rank];
                    $used |= $mask;

                    continue 2;
                }
            }

            return INF;
        }
        foreach ($this->free as $bit) {
            if (($used >> $bit) & 1) {
                $sum += $bit < self::BITS - 1 ? $this->setup[$bit] : array_sum(array_slice($this->setup, $bit));
            }
        }

        return $sum;
    }

    private function tryAll(): int
    {
        $best = 0;
        $least = INF;
        for ($subset = 0; $subset < 1 << count($this->free); $subset++) {
            $open = 0;
            foreach ($this->free as $i => $bit) {
                $open |= (($subset >> $i) & 1) << $bit;
            }
            $cost = $this->cost($open);
            if ($cost < $least) {
                [$best, $least] = [$open, $cost];
            }
        }

        return $best;
    }

    /** From all media open, from none, and from each alone: opens, closes or exchanges media as long as that helps. */
    private function descend(): int
    {
        $each = array_map(fn (int $bit): int => 1 << $bit, $this->free);
        $moves = $each;
        foreach (count($each) <= self::EXCHANGE_UP_TO ? $each : [] as $i => $bit) {
            foreach (array_slice($each, $i + 1) as $other) {
                $moves[] = $bit | $other;
            }
        }
        $all = array_sum($each);
        [$best, $least] = [$all, INF];
        foreach ([$all, 0, ...$each] as $open) {
            $cost = $this->cost($open);
            for ($improved = true; $improved;) {
                $improved = false;
                foreach ($moves as $move) {
                    $other = $this->cost($open ^ $move);
                    if ($other < $cost - 1e-9) {
                        [$open, $cost, $improved] = [$open ^ $move, $other, true];
                    }
                }
            }
            if ($cost < $least) {
                [$best, $least] = [$open, $cost];
            }
        }

        return $best;
    }
}
