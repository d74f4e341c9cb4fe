<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\User;

final class RecoveryRequestPolicy
{
    public function view(User $user, RecoveryRequest $request): bool
    {
        if ($request->requester_id === $user->id) {
            return true;
        }

        return $this->look($user, $request);
    }

    /** Sees the work on it: points, paths, runs. Who only asked sees what they asked, and what came of it. */
    public function look(User $user, RecoveryRequest $request): bool
    {
        return $user->seesWork() && ($request->workload === null || $user->sees($request->workload->group));
    }

    public function create(User $user): bool
    {
        return $user->role === Role::Operator || $user->role === Role::Requester;
    }

    /** Settles the order, previews and runs. */
    public function work(User $user, RecoveryRequest $request): bool
    {
        return $user->role === Role::Operator && $request->state !== 'closed' && $this->look($user, $request);
    }

    /** Says whether what came back is right: the requester, or an operator who has it from them. */
    public function answer(User $user, RecoveryRequest $request): bool
    {
        return $request->state === 'answer'
            && ($request->requester_id === $user->id || ($user->role === Role::Operator && $this->look($user, $request)));
    }
}
