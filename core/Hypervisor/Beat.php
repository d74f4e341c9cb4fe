<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What a machine has done since it was started, as its counters have it: two of them tell one that works from one that stands still. */
final readonly class Beat
{
    /** Of the time between two of them: one that wants its processor for less than that stands still, if it reads and writes nothing. */
    private const IDLE = 0.1;

    /**
     * @param  float  $at  Unix time of it
     * @param  float  $wanted  seconds for which it ran, or would have if the host had let it
     * @param  int  $moved  bytes that it read from its disks, and wrote to them
     */
    public function __construct(public float $at, public float $wanted, public int $moved)
    {
    }

    /** Whether it stood still since. */
    public function isStillSince(self $before): bool
    {
        $wanted = $this->wanted - $before->wanted;

        return $this->moved === $before->moved && $wanted < self::IDLE * max(0.001, $this->at - $before->at);
    }

    /** @return array{at: float, wanted: float, moved: int} */
    public function toArray(): array
    {
        return ['at' => $this->at, 'wanted' => $this->wanted, 'moved' => $this->moved];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        $seconds = fn (string $key): float => is_int($told[$key] ?? null) || is_float($told[$key] ?? null)
            ? (float) $told[$key]
            : throw UnfitSettings::because("$key is no number");

        return new self($seconds('at'), $seconds('wanted'), Told::number($told, 'moved'));
    }
}
