<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Own\OwnMachine;
use App\Models\Role;
use App\Models\User;

/** An enrolment is of a workload: who sees that sees it, and who works for it orders to its machine. */
final class EnrolmentPolicy
{
    public function view(User $user, Enrolment $enrolment): bool
    {
        return $user->seesWork() && $user->sees($enrolment->workload->group);
    }

    /** Who made its code for a machine of theirs, as long as they may bring that onto other disks, or their run is at work on it. */
    public function rebuild(User $user, Enrolment $enrolment): bool
    {
        $isTheirs = $enrolment->user_id === $user->id && $enrolment->request?->requester_id === $user->id;
        $isAtWork = $enrolment->run !== null && $enrolment->run->isOwn() && OwnMachine::holds($enrolment->run);

        return $isTheirs && ($isAtWork || OwnMachine::by($user, $enrolment->workload) !== null);
    }

    public function order(User $user, Enrolment $enrolment): bool
    {
        return $user->role === Role::Operator && $user->sees($enrolment->workload->group);
    }
}
