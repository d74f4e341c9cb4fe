<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Models\Right;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use Illuminate\Database\Eloquent\Collection;
use Kaiseki\Core\Hypervisor\MachineSeen;

/** The hypervisors that somebody may reach, and what stands there, as it was when they were looked at last. */
final readonly class HostsView
{
    /** @var Collection<int, Substitute> that stand in */
    private Collection $substitutes;

    /** @var Collection<int, Substitute> that went home, and are kept */
    private Collection $kept;

    private function __construct(private User $viewer)
    {
        $this->substitutes = Substitute::now();
        $this->kept = Substitute::kept();
    }

    public static function for(User $viewer): self
    {
        return new self($viewer);
    }

    /** @return list<HypervisorHost> */
    public function hosts(): array
    {
        $reach = PersonRights::of($this->viewer);
        $mayReach = fn (HypervisorHost $host): bool => $reach->refuses(Right::Read, $host) === null;

        return array_values(HypervisorHost::query()->orderBy('name')->get()->filter($mayReach)->all());
    }

    /** @return list<MachineSeen> what a run made or set aside first */
    public function machines(HypervisorHost $host): array
    {
        $machines = array_values($host->lastSeen()->machines ?? []);
        usort($machines, fn (MachineSeen $a, MachineSeen $b): int => [
            HypervisorHost::isOfRun($b->settings->name), $a->settings->name,
        ] <=> [HypervisorHost::isOfRun($a->settings->name), $b->settings->name]);

        return $machines;
    }

    /** The workload that a machine is, if this person sees it. */
    public function workload(HypervisorHost $host, MachineSeen $machine): ?Workload
    {
        foreach ($host->workloads($machine->settings->name) as $workload) {
            if ($this->viewer->sees($workload->group)) {
                return $workload;
            }
        }

        return null;
    }

    /** Whether it stood in, and what it stood in for is home. */
    private function isKept(HypervisorHost $host, string $machine): bool
    {
        return $this->kept->contains(fn (Substitute $one): bool => $one->isCalled($host, $machine));
    }

    public function isUnprotected(HypervisorHost $host, MachineSeen $machine): bool
    {
        $name = $machine->settings->name;

        return ! HypervisorHost::isOfRun($name) && $host->workloads($name) === [] && ! $this->isKept($host, $name);
    }

    public function state(HypervisorHost $host, MachineSeen $machine): string
    {
        $isApart = $host->lastSeen()?->room->keepsApart($machine->settings) ?? false;

        return self::stateOf($machine).($isApart ? ', in an annex' : '').$this->inPlace($host, $machine->settings->name);
    }

    /** Of what stands in, and of what it stands in for. */
    private function inPlace(HypervisorHost $host, string $machine): string
    {
        foreach ($this->substitutes as $one) {
            if ($one->hypervisor_id === $host->id && $one->machine === $machine) {
                return ", stands in for {$one->home_machine} at {$one->home->name}";
            }
            if ($one->home_id === $host->id && $one->home_machine === $machine) {
                return ", {$one->machine} at {$one->hypervisor->name} stands in for it";
            }
        }

        return $this->isKept($host, $machine) ? ', went home, and is kept until that is accepted' : '';
    }

    private static function stateOf(MachineSeen $machine): string
    {
        return match (true) {
            $machine->sources !== [] => $machine->isRunning() ? 'runs off its sets' : 'off, on its sets',
            HypervisorHost::isOfRun($machine->settings->name) => $machine->isRunning() ? 'runs, and a run keeps it' : 'kept by a run',
            default => $machine->isRunning() ? 'runs' : 'off',
        };
    }
}
