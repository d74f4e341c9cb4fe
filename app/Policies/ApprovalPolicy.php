<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Approval;
use App\Models\Role;
use App\Models\User;

final class ApprovalPolicy
{
    public function view(User $user, Approval $approval): bool
    {
        return $user->can('look', $approval->request) && ($approval->workload === null || $user->sees($approval->workload->group));
    }

    /** Approves, refuses, reviews: an approver or another operator, never who asked, and whoever has the duty where it takes one. */
    public function decide(User $user, Approval $approval): bool
    {
        $isOne = in_array($user->role, [Role::Approver, Role::Operator], true) && $user->id !== $approval->asked_by;

        return $isOne && ($approval->duty === null || $user->hasDuty($approval->duty)) && $this->view($user, $approval);
    }

    public function withdraw(User $user, Approval $approval): bool
    {
        return $user->can('work', $approval->request);
    }
}
