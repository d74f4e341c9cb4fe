<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Role;
use App\Models\User;
use App\Models\Workload;

final class WorkloadPolicy
{
    /** Sees that the workload is there, its points, and what was proven. */
    public function view(User $user, Workload $workload): bool
    {
        return $user->sees($workload->group) && $user->seesWork();
    }

    /** Has sets made, read back, mended, held and deleted, and judges them. */
    public function tend(User $user, Workload $workload): bool
    {
        return $user->sees($workload->group) && $user->role === Role::Operator;
    }

    /** Looks into its points. */
    public function browse(User $user, Workload $workload): bool
    {
        return $user->sees($workload->group) && $user->role === Role::Operator;
    }

    /** Has replacing in place wait for a second person, or asks that it does not any more. */
    public function askForApproval(User $user, Workload $workload): bool
    {
        return $user->sees($workload->group) && in_array($user->role, [Role::Operator, Role::Approver], true);
    }

    /** Says how long that waits which is begun without: not the one whose orders it holds up. */
    public function settleWait(User $user, Workload $workload): bool
    {
        return $user->sees($workload->group) && $user->role === Role::Approver;
    }
}
