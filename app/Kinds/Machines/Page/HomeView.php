<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Home\StandIn;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Models\Run;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\Storage;

/** A machine that was brought back elsewhere: whether it can stand in, whether it does, and how it goes home. */
final readonly class HomeView
{
    private function __construct(
        public Run $run,
        public ?Substitute $substitute,
        public HypervisorHost $home,
        public string $machine,
        public bool $isHome = false,
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
            return new self($run, $substitute, $substitute->home, $substitute->home_machine);
        }
        $of = (new StandIn($run))->isPossible() ? HypervisorHost::of($run->workload) : null;

        return $of === null ? null : new self($run, null, ...$of);
    }

    /** The original as it was when its hypervisor was seen last. */
    public function original(): ?MachineSeen
    {
        return $this->home->lastSeen()->machines[$this->machine] ?? null;
    }

    /** @return list<string> at home */
    public function networks(): array
    {
        return array_values($this->home->lastSeen()->room->networks ?? []);
    }

    /** @return list<Storage> at home */
    public function storages(): array
    {
        return array_values($this->home->lastSeen()->room->storages ?? []);
    }
}
