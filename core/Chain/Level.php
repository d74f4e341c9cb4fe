<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;

/** What a set holds: everything, what changed since a base, a log of changes, or the state as the source itself keeps it. */
final readonly class Level
{
    private function __construct(
        /** full, diff, incr, log, snapshot, or a dump level from 0 to 9. */
        public string $name,
    ) {
    }

    /** @throws InvalidArgumentException */
    public static function of(string|int $name): self
    {
        $name = match (strtolower((string) $name)) {
            'full' => 'full',
            'diff', 'differential' => 'diff',
            'incr', 'inc', 'increment', 'incremental' => 'incr',
            'log' => 'log',
            'snap', 'snapshot' => 'snapshot',
            default => (string) $name,
        };
        if (! in_array($name, ['full', 'diff', 'incr', 'log', 'snapshot'], true) && preg_match('/^[0-9]$/D', $name) !== 1) {
            throw new InvalidArgumentException("\"$name\" is not a level. Levels are full, diff, incr, log, snapshot, and 0 to 9.");
        }

        return new self($name);
    }

    /** A full needs nothing; dump level 0 is one. */
    public function isFull(): bool
    {
        return $this->name === 'full' || $this->name === '0';
    }

    /** Kept at the source only: rests on nothing, nothing rests on it, and it is gone with the source. */
    public function isSnapshot(): bool
    {
        return $this->name === 'snapshot';
    }

    /** A full or a snapshot. */
    public function needsNoBase(): bool
    {
        return $this->isFull() || $this->isSnapshot();
    }

    public function isLog(): bool
    {
        return $this->name === 'log';
    }

    /** As dump(8) counts: a full is 0; null for levels that are not counted so. */
    public function dumpLevel(): ?int
    {
        return $this->isFull() ? 0 : (ctype_digit($this->name) ? (int) $this->name : null);
    }

    /** In words. */
    public function words(): string
    {
        return match ($this->name) {
            'full' => 'full', 'diff' => 'differential', 'incr' => 'increment', 'log' => 'log', 'snapshot' => 'snapshot',
            default => 'level '.$this->name,
        };
    }
}
