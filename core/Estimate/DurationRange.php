<?php

declare(strict_types=1);

namespace Kaiseki\Core\Estimate;

/** A duration that is a guess, in seconds, with how far off it may be. */
final readonly class DurationRange
{
    private function __construct(public float $likely, public float $least, public float $most)
    {
    }

    public static function of(float $likely, float $least, float $most): self
    {
        return new self($likely, min($least, $likely), max($most, $likely));
    }

    public static function none(): self
    {
        return new self(0.0, 0.0, 0.0);
    }

    public function plus(self $other): self
    {
        return new self($this->likely + $other->likely, $this->least + $other->least, $this->most + $other->most);
    }

    /** Whether a duration that was measured lies in it. */
    public function holds(float $seconds): bool
    {
        return $seconds >= $this->least && $seconds <= $this->most;
    }
}
