<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Role;
use App\Models\Run;
use App\Models\User;

final class RunPolicy
{
    /** Sees the run and its proof. */
    public function view(User $user, Run $run): bool
    {
        if ($user->role === Role::Requester) {
            return $run->request !== null && $run->request->requester_id === $user->id;
        }

        return $user->sees($run->workload->group);
    }

    public function stop(User $user, Run $run): bool
    {
        return $user->role === Role::Operator && $user->sees($run->workload->group);
    }

    /** Takes the archive of a download order: the requester too, since it is for them. */
    public function download(User $user, Run $run): bool
    {
        return $user->role === Role::Requester ? $this->view($user, $run) : $this->stop($user, $run);
    }
}
