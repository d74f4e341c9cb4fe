<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** Some disks of a machine as they were in one instant, whether it runs or not: they are read while it goes on. */
final readonly class Moment
{
    /**
     * @param  array<string, DiskDoor>  $doors  disk => where it is read
     * @param  array<string, string>  $since  disk => the mark before, by which is known what changed since; those that can be believed
     * @param  bool  $isRunning  whether the machine ran
     * @param  string|null  $unrest  why its file systems were not at rest, so that its disks are as after a power cut; null if they were
     */
    public function __construct(
        public MachineSettings $settings,
        public array $doors,
        public array $since,
        public bool $isRunning,
        public ?string $unrest = null,
    ) {
    }
}
