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
        return $user->sees($run->workload->group) && $user->seesWork();
    }

    /** Hears what came of it, as the one who asked for it. */
    public function hear(User $user, Run $run): bool
    {
        return $run->request !== null && $run->request->requester_id === $user->id && $user->sees($run->workload->group);
    }

    public function stop(User $user, Run $run): bool
    {
        return $user->sees($run->workload->group) && $user->role === Role::Operator;
    }

    /** Undoes it: who ordered it of what is their own, too. */
    public function putBack(User $user, Run $run): bool
    {
        return $this->stop($user, $run) || ($this->hear($user, $run) && $run->user_id === $user->id && $run->isOwn());
    }

    /** Stops it while it is at work, or before it begins: an approver too. */
    public function halt(User $user, Run $run): bool
    {
        return $user->sees($run->workload->group) && in_array($user->role, [Role::Operator, Role::Approver], true);
    }

    /** Takes the archive of a download order: the requester too, since it is for them. */
    public function download(User $user, Run $run): bool
    {
        return $this->stop($user, $run) || $this->hear($user, $run);
    }
}
