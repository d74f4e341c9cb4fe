<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Models\Role;
use App\Models\User;

/** An enrolment is of a workload: who sees that sees it, and who works for it orders to its machine. */
final class EnrolmentPolicy
{
    public function view(User $user, Enrolment $enrolment): bool
    {
        return $user->seesWork() && $user->sees($enrolment->workload->group);
    }

    public function order(User $user, Enrolment $enrolment): bool
    {
        return $user->role === Role::Operator && $user->sees($enrolment->workload->group);
    }
}
