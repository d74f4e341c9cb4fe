<?php

declare(strict_types=1);

namespace App\Policies;

use App\Agents\Agent;
use App\Models\Role;
use App\Models\User;

/** An agent is of a workload: who tends that makes its file, and revokes it. */
final class AgentPolicy
{
    public function make(User $user): bool
    {
        return $user->role === Role::Operator;
    }

    public function tend(User $user, Agent $agent): bool
    {
        return $user->role === Role::Operator && $user->sees($agent->workload->group);
    }
}
