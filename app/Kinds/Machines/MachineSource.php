<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Intake\MachineProtection;
use App\Kinds\Machines\Page\MachineView;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Chain\Level;

/** The machine at its hypervisor that a workload is. Of one of which only images are known no set is made here. */
final readonly class MachineSource implements Source
{
    public function __construct(private Workload $workload)
    {
    }

    public function levels(): array
    {
        return $this->isKnown() ? ['incr' => 'increment', 'diff' => 'differential', 'full' => 'full'] : [];
    }

    public function makes(Level $level): bool
    {
        return $this->isKnown() && MachineProtection::makes($level);
    }

    public function usualTimes(): array
    {
        return ['10 23 * * 0=full', '10 23 * * 1-6=incr'];
    }

    public function isKnown(): bool
    {
        return HypervisorHost::of($this->workload) !== null;
    }

    /** As it was when its hypervisor was looked at last. */
    public function isGone(): bool
    {
        [$host, $machine] = HypervisorHost::nowOf($this->workload) ?? [null, ''];
        $seen = $host?->lastSeen();

        return $seen !== null && ! isset($seen->machines[$machine]);
    }

    public function place(): ?SourcePlace
    {
        [$host, $machine] = HypervisorHost::nowOf($this->workload) ?? [null, ''];

        return $host === null
            ? null
            : new SourcePlace('It is the machine', $machine, " at {$host->name}", MachineView::address($host, $machine));
    }

    public function levelOfPresent(): string
    {
        return 'incr';
    }

    public function make(MakingOrder $order): BackupSet
    {
        return (new MachineProtection($this->workload, $order))->make();
    }
}
