<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Kinds\Machines\Standing\Standing;
use App\Models\Right;
use App\Models\Role;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;

/** Who may do what with one machine at a hypervisor: it is the hypervisor's, and that of whoever sees the workloads that it is. */
final class HypervisorHostPolicy
{
    public function view(User $user, HypervisorHost $host): bool
    {
        return $user->seesWork() && PersonRights::of($user)->sees($host);
    }

    /** Sees what is on its screen and its serial line: that may be anything that is in it. */
    public function look(User $user, HypervisorHost $host, string $machine): bool
    {
        return $this->isAtWork($user, Right::Read, $host, $machine);
    }

    /** Turns it on or off. */
    public function turn(User $user, HypervisorHost $host, string $machine): bool
    {
        return $this->isAtWork($user, Right::Write, $host, $machine);
    }

    private function isAtWork(User $user, Right $right, HypervisorHost $host, string $machine): bool
    {
        $of = [...$host->workloads($machine), ...array_filter([Standing::workloadAt($host, $machine)])];
        $unseen = array_filter($of, fn (Workload $workload): bool => ! $user->sees($workload->group));

        return $user->role === Role::Operator && $unseen === [] && PersonRights::of($user)->may($right, $host);
    }
}
