<?php

declare(strict_types=1);

namespace Kaiseki\Core\Objective;

/** How a workload stands against what was promised for it. */
final readonly class Standing
{
    public function __construct(
        /** Seconds since the newest usable point; null if none is usable. */
        public ?int $ageSeconds,
        /** Objective: at most so old (RPO); null for none. */
        public ?int $rpoSeconds,
        /** A whole restore of that point, as estimated: likely; null if there is none. */
        public ?float $restoreSeconds,
        /** What the last whole restore really took; null if there was none. */
        public ?float $lastRestoreSeconds,
        /** Objective: a whole restore takes at most so long (RTO); null for none. */
        public ?int $rtoSeconds,
        /** Points that exist but are not whole. */
        public int $unusable,
        public int $inDoubt,
        public int $points,
        public bool $sourceIsGone,
        public bool $hasSource,
        /** Whether that point can be read from a store at another site than its source's. */
        public bool $isOutside,
        public bool $mustBeOutside,
        public bool $hasSchedule,
        /** Seconds since any copy of its newest point was read back; null if none ever was. */
        public ?int $checkedAgo,
        /** Why the last set that was to be made was not; null if it was. */
        public ?string $lastFailure,
    ) {
    }

    public function missesRpo(): bool
    {
        return $this->rpoSeconds !== null && ($this->ageSeconds === null || $this->ageSeconds > $this->rpoSeconds);
    }

    public function missesRto(): bool
    {
        return $this->rtoSeconds !== null && max($this->restoreSeconds ?? 0.0, $this->lastRestoreSeconds ?? 0.0) > $this->rtoSeconds;
    }

    public function isMet(): bool
    {
        return ! $this->missesRpo() && ! $this->missesRto() && ! ($this->mustBeOutside && ! $this->isOutside);
    }

    /** @return list<Concern> what is to be said about it, the weightiest first */
    public function concerns(): array
    {
        $concerns = array_values(
            array_filter([
                $this->noPoint(),
                $this->tooOld(),
                $this->notMade(),
                $this->notOutside(),
                $this->tooSlow(),
                $this->doubt(),
                $this->notWhole(),
                $this->gone(),
                $this->noSchedule(),
                $this->notChecked(),
            ]),
        );
        usort($concerns, fn (Concern $a, Concern $b): int => $b->weight <=> $a->weight);

        return $concerns;
    }

    private function noPoint(): ?Concern
    {
        return match (true) {
            $this->points === 0 => new Concern(100, 'nothing', 'Nothing of it was ever backed up.', 'Make a set of it.'),
            $this->ageSeconds === null => new Concern(
                95,
                'unusable',
                'None of its '.number_format($this->points).' points is usable.',
                'See why on its page; mend the copies, or make a full now.',
            ),
            default => null,
        };
    }

    private function tooOld(): ?Concern
    {
        if (! $this->missesRpo() || $this->ageSeconds === null) {
            return null;
        }
        $times = $this->ageSeconds / max(1, (int) $this->rpoSeconds);

        return new Concern(
            min(90, 70 + (int) (5 * $times)),
            'rpo',
            sprintf(
                'Its newest usable point is %s old; at most %s are promised.',
                self::span($this->ageSeconds),
                self::span((int) $this->rpoSeconds),
            ),
            $this->sourceIsGone ? 'Its original is gone: settle whether the promise still holds.' : 'Make a set now.',
        );
    }

    private function notMade(): ?Concern
    {
        return $this->lastFailure === null
            ? null
            : new Concern(80, 'failed', "The last set could not be made: {$this->lastFailure}", 'Mend the cause, then make a set.');
    }

    private function notOutside(): ?Concern
    {
        if ($this->ageSeconds === null || $this->isOutside) {
            return null;
        }

        return new Concern(
            $this->mustBeOutside ? 75 : 30,
            'outside',
            'Its newest usable point can only be read at the site of its source.',
            'Copy it to a store at another site.',
        );
    }

    private function tooSlow(): ?Concern
    {
        if (! $this->missesRto()) {
            return null;
        }
        $really = ($this->lastRestoreSeconds ?? 0.0) > (float) $this->rtoSeconds;

        return new Concern(
            65,
            'rto',
            sprintf(
                'A whole restore %s %s; at most %s are promised.',
                $really ? 'really took' : 'would take about',
                self::span((int) ($really ? $this->lastRestoreSeconds : $this->restoreSeconds)),
                self::span((int) $this->rtoSeconds),
            ),
            'Keep a copy nearer to its place, or make fulls more often.',
        );
    }

    private function doubt(): ?Concern
    {
        return $this->inDoubt === 0
            ? null
            : new Concern(
                60,
                'doubt',
                sprintf('%s of its points %s in doubt.', number_format($this->inDoubt), $this->inDoubt === 1 ? 'is' : 'are'),
                'Read the signs, and judge.',
            );
    }

    private function notWhole(): ?Concern
    {
        return $this->unusable === 0 || $this->ageSeconds === null
            ? null
            : new Concern(
                45,
                'part',
                sprintf(
                    '%s of its %s points %s not whole.',
                    number_format($this->unusable),
                    number_format($this->points),
                    $this->unusable === 1 ? 'is' : 'are',
                ),
                'See which on its page, and mend what can be mended.',
            );
    }

    private function gone(): ?Concern
    {
        return $this->sourceIsGone && ! $this->missesRpo()
            ? new Concern(
                40,
                'gone',
                'Its original is gone; what the sets hold stays.',
                'Hold what must not expire, or let the rules take it.',
            )
            : null;
    }

    private function noSchedule(): ?Concern
    {
        return $this->hasSource && ! $this->hasSchedule && ! $this->sourceIsGone
            ? new Concern(35, 'schedule', 'Nothing makes sets of it by itself.', 'Give it a schedule.')
            : null;
    }

    private function notChecked(): ?Concern
    {
        return $this->ageSeconds !== null && $this->checkedAgo === null
            ? new Concern(20, 'unchecked', 'No copy of its newest usable point was ever read back.', 'Have it read back.')
            : null;
    }

    private static function span(int $seconds): string
    {
        return match (true) {
            $seconds < 60 => "$seconds s",
            $seconds < 5400 => round($seconds / 60).' min',
            $seconds < 172_800 => round($seconds / 3600).' h',
            default => intdiv($seconds, 86_400).' days',
        };
    }
}
