<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Consent;
use App\Models\Role;
use App\Models\User;

final class ConsentPolicy
{
    public function view(User $user, Consent $consent): bool
    {
        return $user->can('view', $consent->workload) || $user->id === $consent->asked_by;
    }

    /** Never who asked; and of the two, one is an approver. */
    public function decide(User $user, Consent $consent): bool
    {
        $isApprover = $user->role === Role::Approver || ($user->role === Role::Operator && $consent->asker->role === Role::Approver);

        return $isApprover && $user->id !== $consent->asked_by && $user->sees($consent->workload->group);
    }

    public function withdraw(User $user, Consent $consent): bool
    {
        return $user->id === $consent->asked_by;
    }
}
