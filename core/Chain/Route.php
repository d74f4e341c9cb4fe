<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** What reading from the stores costs, for one target site. */
final readonly class Route
{
    /**
     * @param  array<string, StoreRate>  $stores  by name
     * @param  array<string, array<string, float>>  $lanes  from site => to site => 10^6 bytes a second
     */
    public function __construct(
        private array $stores,
        private array $lanes,
        private ?string $targetSite,
        /**
         * A person's way to the shelf and back, whatever is fetched; it counts in choosing copies, not in the seconds of a reading list.
         */
        public float $shelfSeconds = 0.0,
    ) {
    }

    /** Seconds to bring so many bytes from the store to the target, set-up not counted. */
    public function seconds(string $store, int|float $bytes): float
    {
        return $bytes / ($this->megabytesPerSecond($store) * 1e6);
    }

    /** The lower of the store's read rate and its lane's. A lane that is not listed does not limit. */
    public function megabytesPerSecond(string $store): float
    {
        $rate = $this->stores[$store];
        $lane = $this->targetSite === null ? null : $this->lanes[$rate->site][$this->targetSite] ?? null;

        return $lane === null ? $rate->readMbS : min($rate->readMbS, $lane);
    }

    /** The listed lane that what comes from a store moves over, as FROM>TO; null for none. */
    public function laneOf(string $store): ?string
    {
        $site = $this->stores[$store]->site;

        return $this->targetSite !== null && $site !== $this->targetSite && isset($this->lanes[$site][$this->targetSite])
            ? "$site>{$this->targetSite}"
            : null;
    }

    public function setupSeconds(string $store): float
    {
        return $this->stores[$store]->setupS;
    }

    public function knows(string $store): bool
    {
        return isset($this->stores[$store]);
    }

    /** @return array<string, string> store => site */
    public function sites(): array
    {
        return array_map(fn (StoreRate $rate): string => $rate->site, $this->stores);
    }
}
