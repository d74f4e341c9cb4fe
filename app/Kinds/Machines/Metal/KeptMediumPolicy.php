<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Models\Role;
use App\Models\User;

/** A medium is of no workload: whoever works for some makes one, and takes it. */
final class KeptMediumPolicy
{
    public function make(User $user): bool
    {
        return $user->role === Role::Operator;
    }
}
