<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A machine as it was in an instant, kept where its disks lie: it goes with them. */
final readonly class SnapshotSeen
{
    /**
     * @param  int  $at  Unix time of that instant
     * @param  bool  $isRunning  whether the machine ran
     * @param  string|null  $unrest  why its file systems were not at rest; null if they were
     */
    public function __construct(public int $at, public bool $isRunning, public ?string $unrest)
    {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['at' => $this->at, 'runs' => $this->isRunning, 'unrest' => $this->unrest];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        $unrest = isset($told['unrest']) ? Told::text($told, 'unrest') : null;

        return new self(Told::number($told, 'at'), ($told['runs'] ?? false) === true, $unrest);
    }
}
