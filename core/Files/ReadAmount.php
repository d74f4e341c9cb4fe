<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use JsonSerializable;

/** What was read of one archive. It grows while it is read, a member at a time. */
final class ReadAmount implements JsonSerializable
{
    public function __construct(
        public int $bytes = 0,
        public int $members = 0,
        /** In which nothing else was done; two processes that read at a time count once. */
        public float $seconds = 0.0,
    ) {
    }

    public function member(int $bytes, float $seconds = 0.0): void
    {
        $this->bytes += $bytes;
        $this->members++;
        $this->seconds += $seconds;
    }

    /** What another process read of it in the same time. */
    public function meanwhile(self $other): void
    {
        $this->bytes += $other->bytes;
        $this->members += $other->members;
        $this->seconds = max($this->seconds, $other->seconds);
    }

    /** @return array{bytes: int, members: int, seconds: float} as runs keep it */
    public function jsonSerialize(): array
    {
        return ['bytes' => $this->bytes, 'members' => $this->members, 'seconds' => $this->seconds];
    }

    /**
     * @param  array<array-key, array{bytes: int, members: int, seconds?: float|int}>  $kept
     * @return array<array-key, self> by the same keys
     */
    public static function fromArrays(array $kept): array
    {
        return array_map(fn (array $one): self => new self($one['bytes'], $one['members'], (float) ($one['seconds'] ?? 0)), $kept);
    }
}
