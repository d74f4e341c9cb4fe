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
     */
    public function __construct(private ChainGraph $graph, private Closure $unusable, private array $sites)
    {
    }

    /**
     * By the rule by sets: every set of the chain has a readable copy.
     *
     * @param  array<string, string>  $sites  store => site
     * @param  (Closure(SetCopy, BackupSet): bool)|null  $allowed  copies that may be read; all without it
     */
    public static function bySets(ChainGraph $graph, array $sites, ?Closure $allowed = null): self
    {
        return new self($graph, function (BackupSet $set) use ($graph, $allowed): ?string {
            $chain = $graph->chainOf($set->id);
            if ($chain instanceof Blockage) {
                return $chain->because;
            }
            foreach ($chain->sets as $piece) {
                $readable = $piece->readableCopies();
                if ($readable === []) {
                    return $piece->id === $set->id ? 'no copy of it can be read' : "no copy of {$piece->id}, on which it rests, can be read";
                }
                if ($allowed !== null && array_filter($readable, fn (SetCopy $copy): bool => $allowed($copy, $piece)) === []) {
                    return $piece->id === $set->id ? 'its only readable copies were to be avoided' : "the only readable copies of {$piece->id}, on which it rests, were to be avoided";
                }
            }

            return null;
        }, $sites);
    }

    public function find(Instant $wanted, Demands $demands): FoundPoint
    {
        $chosen = $at = $before = $after = null;
        $passedOver = [];
        // Newest state first. A set's state is its own instant; a log gives any instant within its span.
        $candidates = [];
        foreach ($this->graph->sets() as $set) {
            $state = $this->stateAt($set, $wanted);
            if (! $state->isAfter($wanted)) {
                $candidates[] = [$state->microseconds, $set->level->isLog() ? 0 : 1, $set->capturedAt->microseconds, $set];
            } elseif ($after === null && $this->blocks($set, $demands) === null) {
                $after = $set;
            }
        }
        usort($candidates, fn (array $a, array $b): int => [$b[0], $b[1], $b[2], $b[3]->id] <=> [$a[0], $a[1], $a[2], $a[3]->id]);
        foreach ($candidates as [$microseconds, , , $set]) {
            $because = $this->blocks($set, $demands);
            if ($chosen === null) {
                if ($because === null) {
                    [$chosen, $at] = [$set, Instant::ofMicroseconds($microseconds)];
                } else {
                    $passedOver[] = new PassedOver($set, $because);
                }
            } elseif ($because === null) {
                $before = $set;
                break;
            }
        }

        return new FoundPoint($chosen, $at, $passedOver, $before, $after);
    }

    /** Why the set is not to be chosen; null if it may be. */
    public function blocks(BackupSet $set, Demands $demands): ?string
    {
        return ($this->unusable)($set) ?? $demands->unmetBy($set, $this->sites);
    }

    private function stateAt(BackupSet $set, Instant $wanted): Instant
    {
        if (! $set->level->isLog() || ! $set->capturedAt->isAfter($wanted)) {
            return $set->capturedAt;
        }
        $base = $this->graph->baseOf($set->id);
        $begins = $base === null ? null : $this->graph->set($base)?->capturedAt;

        return $begins === null || $begins->isAfter($wanted) ? $set->capturedAt : $wanted;
    }
}
