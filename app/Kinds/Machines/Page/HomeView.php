<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Home\StandIn;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Names\MachineName;
use App\Models\Run;
use App\Words;
use Illuminate\Database\Eloquent\Collection;
use Kaiseki\Core\Hypervisor\MachineSeen;

/** A machine that was brought back elsewhere: whether it can stand in, whether it does, and how it goes home. */
final readonly class HomeView
{
    /** @param  Collection<int, HypervisorHost>  $homes  that can be its home: its own first, and not where it stands in */
    private function __construct(
        public Run $run,
        public ?Substitute $substitute,
        public HypervisorHost $home,
        public string $machine,
        public bool $isHome = false,
        public Collection $homes = new Collection,
    ) {
    }

    /** Null where nothing of this can be decided on the page of a run. */
    public static function ofRun(Run $run): ?self
    {
        if (($run->plan['way'] ?? '') === HomeOrder::WAY) {
            $isToBeAccepted = $run->state === 'done' && $run->set_aside_until !== null && $run->put_back_at === null;
            $substitute = $isToBeAccepted ? HomeOrder::fromArray($run->plan)->substitute() : null;

            return $substitute === null ? null : new self($run, $substitute, $substitute->home, $substitute->home_machine, true);
        }
        $substitute = Substitute::active($run);
        if ($substitute !== null) {
            return new self($run, $substitute, $substitute->home, $substitute->home_machine, homes: self::homesOf($substitute));
        }
        $of = (new StandIn($run))->isPossible() ? HypervisorHost::of($run->workload) : null;

        return $of === null ? null : new self($run, null, ...$of);
    }

    /** The original as it was when its hypervisor was seen last. */
    public function original(): ?MachineSeen
    {
        return $this->home->lastSeen()->machines[$this->machine] ?? null;
    }

    /** @return Collection<int, HypervisorHost> */
    private static function homesOf(Substitute $substitute): Collection
    {
        return HypervisorHost::query()
            ->whereKeyNot($substitute->hypervisor_id)
            ->orderByRaw('silent IS NOT NULL, id <> ?, name', [$substitute->home_id])
            ->get();
    }

    /** @return array<string, string> storages of those => how much is free, and where */
    public function storages(): array
    {
        $storages = [];
        foreach ($this->homes as $host) {
            foreach ($host->lastSeen()->room->storages ?? [] as $storage) {
                $storages[$storage->name][] = Words::size($storage->free)." free at {$host->name}";
            }
        }

        return array_map(fn (array $where): string => implode(', ', $where), $storages);
    }

    /** @return list<string> networks of those */
    public function networks(): array
    {
        $networks = $this->homes->map(fn (HypervisorHost $host): array => $host->lastSeen()->room->networks ?? [])->all();

        return array_values(array_unique(array_merge(...array_values($networks))));
    }

    /** @return Collection<int, MachineName> by which others reach it */
    public function names(): Collection
    {
        return MachineName::of($this->run->workload);
    }

    /** Whether it could only go where nothing of it is. */
    public function isNewThere(): bool
    {
        return $this->original() === null || $this->home->silent !== null;
    }
}
