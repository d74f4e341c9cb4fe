<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Role;
use App\Models\Store;
use App\Models\User;
use App\People\TargetReach;

final class StorePolicy
{
    /** Asks for cartridges, and records that they came. */
    public function handle(User $user, Store $store): bool
    {
        return $user->role === Role::Operator && (new TargetReach($user))->store($store);
    }
}
