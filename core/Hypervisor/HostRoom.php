<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What a hypervisor has for machines, and what of it is free. */
final readonly class HostRoom
{
    /**
     * @param  int  $memory  MiB
     * @param  int  $slots  machines that may run at once
     * @param  list<Storage>  $storages
     * @param  list<string>  $networks
     * @param  list<string>  $annexes  networks apart that somebody opened
     */
    public function __construct(
        public int $memory,
        public int $memoryFree,
        public int $slots,
        public int $slotsFree,
        public array $storages,
        public array $networks,
        public array $annexes = [],
    ) {
    }

    /** Whether a card of a machine is in an annex. */
    public function keepsApart(MachineSettings $machine): bool
    {
        return array_intersect($machine->networks(), $this->annexes) !== [];
    }

    public function storage(string $name): ?Storage
    {
        foreach ($this->storages as $storage) {
            if ($storage->name === $name) {
                return $storage;
            }
        }

        return null;
    }

    /** The storage with most that is free. */
    public function roomiest(): ?Storage
    {
        $storages = $this->storages;
        usort($storages, fn (Storage $a, Storage $b): int => $b->free <=> $a->free);

        return $storages[0] ?? null;
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'memory_mib' => $this->memory,
            'memory_free_mib' => $this->memoryFree,
            'slots' => $this->slots,
            'slots_free' => $this->slotsFree,
            'storages' => array_map(fn (Storage $storage): array => $storage->toArray(), $this->storages),
            'networks' => $this->networks,
            'annexes' => $this->annexes,
        ];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(
            Told::number($told, 'memory_mib'),
            Told::number($told, 'memory_free_mib'),
            Told::number($told, 'slots'),
            Told::number($told, 'slots_free'),
            Told::all($told, 'storages', fn (mixed $one): Storage => Storage::fromArray(Told::part($one))),
            Told::texts($told, 'networks'),
            Told::texts($told, 'annexes'),
        );
    }
}
