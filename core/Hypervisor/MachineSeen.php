<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A machine as it is at a hypervisor now. */
final readonly class MachineSeen
{
    /**
     * @param  array<string, string>  $storages  disk => storage that it lies on
     * @param  array<string, int>  $held  disk => bytes that it takes there
     * @param  int|null  $since  Unix time since which it runs; null if it is off
     * @param  string|null  $address  where what it serves is asked for from here: HOST:PORT
     * @param  list<string>  $sources  disks that are still read from elsewhere
     * @param  array<string, SnapshotSeen>  $snapshots  by name, those that are kept where its disks lie
     */
    public function __construct(
        public MachineSettings $settings,
        public array $storages,
        public array $held,
        public ?int $since = null,
        public ?string $address = null,
        public array $sources = [],
        public array $snapshots = [],
    ) {
    }

    public function isRunning(): bool
    {
        return $this->since !== null;
    }

    /** @return array<string, SnapshotSeen> by name, the newest first */
    public function newestSnapshots(): array
    {
        $snapshots = $this->snapshots;
        uasort($snapshots, fn (SnapshotSeen $a, SnapshotSeen $b): int => $b->at <=> $a->at);

        return $snapshots;
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'settings' => $this->settings->toArray(),
            'storages' => $this->storages,
            'held' => $this->held,
            'since' => $this->since,
            'address' => $this->address,
            'sources' => $this->sources,
            'snapshots' => (object) array_map(fn (SnapshotSeen $one): array => $one->toArray(), $this->snapshots),
        ];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        $storages = $held = [];
        foreach (Told::part($told['storages'] ?? []) as $disk => $storage) {
            $storages[(string) $disk] = Told::text(['storage' => $storage], 'storage');
        }
        foreach (Told::part($told['held'] ?? []) as $disk => $bytes) {
            $held[(string) $disk] = Told::number(['bytes' => $bytes], 'bytes');
        }
        $snapshots = [];
        foreach (Told::part($told['snapshots'] ?? []) as $name => $snapshot) {
            $snapshots[mb_scrub((string) $name)] = SnapshotSeen::fromArray(Told::part($snapshot));
        }
        $address = isset($told['address']) ? Told::text($told, 'address') : null;

        return new self(
            MachineSettings::fromArray(Told::part($told['settings'] ?? null)),
            $storages,
            $held,
            isset($told['since']) ? Told::number($told, 'since') : null,
            $address !== null && preg_match('/^[A-Za-z0-9.-]{1,253}:\d{1,5}$/D', $address) !== 1 ? null : $address,
            Told::texts($told, 'sources'),
            $snapshots,
        );
    }
}
