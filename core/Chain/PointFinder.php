<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use Closure;
use Kaiseki\Core\Instant;

/** Finds the newest usable point at or before a moment, and says why each newer one was passed over. */
final readonly class PointFinder
{
    /**
     * @param  Closure(BackupSet): ?string  $unusable  why a set's point cannot be given back; null if it can
     * @param  array<string, string>  $sites  store => site
     * @param  (Closure(BackupSet): ?string)|null  $doubt  why what is wanted of a set is in doubt; without it what the set says of itself
     */
    public function __construct(
        private ChainGraph $graph,
        private Closure $unusable,
        private array $sites,
        private ?Closure $doubt = null,
    ) {
    }

    /**
     * By the rule by sets.
     *
     * @param  array<string, string>  $sites  store => site
     */
    public static function bySets(ChainGraph $graph, array $sites, CopyRule $rule = new CopyRule): self
    {
        return new self($graph, (new ReadableChains($graph, $rule))->because(...), $sites);
    }

    public function find(Instant $wanted, Demands $demands): FoundPoint
    {
        $chosen = $at = $before = null;
        $passedOver = [];
        foreach ($this->candidates($wanted) as [$set, $state]) {
            $because = $this->blocks($set, $demands);
            if ($chosen !== null) {
                if ($because === null) {
                    $before = $set;
                    break;
                }
            } elseif ($because !== null) {
                $passedOver[] = new PassedOver($set, $because);
            } elseif ($demands->isTooOld($state->secondsUntil($wanted))) {
                // All that follow are older still: this is the nearest that would do otherwise.
                $passedOver[] = new PassedOver($set, $demands->tooOldBecause());
                $before = $set;
                break;
            } else {
                [$chosen, $at] = [$set, $state];
            }
        }

        return new FoundPoint($chosen, $at, $passedOver, $before, $this->firstAfter($wanted, $demands));
    }

    private function doubtOf(BackupSet $set): ?string
    {
        return match (true) {
            $this->doubt !== null => ($this->doubt)($set),
            $set->inDoubt => 'it is in doubt: there are signs that the content was damaged before it was backed up',
            default => null,
        };
    }

    /** Why the set is not to be chosen; null if it may be. */
    public function blocks(BackupSet $set, Demands $demands): ?string
    {
        return ($this->unusable)($set) ?? $demands->unmetBy($set, $this->sites, $this->doubtOf($set));
    }

    /**
     * Sets whose state at or before the moment can be had, the newest state first. A set's state is its own instant; a log
     * gives any instant within its span.
     *
     * @return iterable<array{BackupSet, Instant}>
     */
    private function candidates(Instant $wanted): iterable
    {
        $sets = $this->graph->sets();
        $end = $this->endOf($wanted);
        $atMoment = [];
        for ($i = $end; $i < count($sets); $i++) {
            if ($this->gives($sets[$i], $wanted)) {
                $atMoment[] = $sets[$i];
            }
        }
        for ($i = $end - 1; $i >= 0 && $sets[$i]->capturedAt->microseconds === $wanted->microseconds; $i--) {
            $atMoment[] = $sets[$i];
        }
        usort($atMoment, self::order(...));
        foreach ($atMoment as $set) {
            yield [$set, $wanted];
        }
        while ($i >= 0) {
            $same = [];
            for ($instant = $sets[$i]->capturedAt->microseconds; $i >= 0 && $sets[$i]->capturedAt->microseconds === $instant; $i--) {
                $same[] = $sets[$i];
            }
            usort($same, self::order(...));
            foreach ($same as $set) {
                yield [$set, $set->capturedAt];
            }
        }
    }

    private function firstAfter(Instant $wanted, Demands $demands): ?BackupSet
    {
        $sets = $this->graph->sets();
        for ($i = $this->endOf($wanted); $i < count($sets); $i++) {
            if (! $this->gives($sets[$i], $wanted) && $this->blocks($sets[$i], $demands) === null) {
                return $sets[$i];
            }
        }

        return null;
    }

    /** How many sets are not later than the moment. */
    private function endOf(Instant $wanted): int
    {
        $sets = $this->graph->sets();
        [$low, $high] = [0, count($sets)];
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($sets[$middle]->capturedAt->isAfter($wanted)) {
                $high = $middle;
            } else {
                $low = $middle + 1;
            }
        }

        return $low;
    }

    /** Whether a later set is a log within which the moment lies. */
    private function gives(BackupSet $set, Instant $wanted): bool
    {
        if (! $set->level->isLog()) {
            return false;
        }
        $base = $this->graph->baseOf($set->id);
        $begins = $base === null ? null : $this->graph->set($base)?->capturedAt;

        return $begins !== null && ! $begins->isAfter($wanted);
    }

    /** Of states of one instant: sets before logs, then the later, then by name. */
    private static function order(BackupSet $a, BackupSet $b): int
    {
        return $a->level->isLog() <=> $b->level->isLog() ?:
            $b->capturedAt->microseconds <=> $a->capturedAt->microseconds ?:
            $b->id <=> $a->id;
    }
}
