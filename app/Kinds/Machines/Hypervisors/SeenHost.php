<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\MachineSeen;

/** A hypervisor as it was when somebody looked at it: what it has, and its machines. */
final readonly class SeenHost
{
    /** @param  array<string, MachineSeen>  $machines  by name */
    public function __construct(public HostRoom $room, public array $machines)
    {
    }

    /** @throws \Kaiseki\Core\Hypervisor\HypervisorFailure */
    public static function at(Hypervisor $hypervisor): self
    {
        return new self($hypervisor->room(), $hypervisor->machines());
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'room' => $this->room->toArray(),
            'machines' => array_map(fn (MachineSeen $machine): array => $machine->toArray(), array_values($this->machines)),
        ];
    }

    /** @param  array<mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $machines = [];
        foreach ((array) ($kept['machines'] ?? []) as $told) {
            $machine = MachineSeen::fromArray((array) $told);
            $machines[$machine->settings->name] = $machine;
        }

        return new self(HostRoom::fromArray((array) ($kept['room'] ?? [])), $machines);
    }
}
