<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Alarm;
use App\Models\Role;
use App\Models\User;

final class AlarmPolicy
{
    /** Says that they see to it: then it is not sent any more. */
    public function take(User $user, Alarm $alarm): bool
    {
        $sees = $alarm->workload === null ? ! $user->isLimited() : $user->sees($alarm->workload->group);

        return $sees && in_array($user->role, [Role::Operator, Role::Approver], true);
    }
}
