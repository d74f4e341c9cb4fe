<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Right;
use App\Models\Role;
use App\Models\Store;
use App\Models\User;
use App\Rights\PersonRights;

final class StorePolicy
{
    /** Sees it on pages, and what lies there of workloads that they see. */
    public function view(User $user, Store $store): bool
    {
        return PersonRights::of($user)->sees($store);
    }

    /** Asks for cartridges, records that they came, and settles how it is read back. */
    public function tend(User $user, Store $store): bool
    {
        return PersonRights::of($user)->may(Right::Tend, $store);
    }

    /** Has sets and copies written to it. */
    public function write(User $user, Store $store): bool
    {
        return $user->role === Role::Operator && PersonRights::of($user)->may(Right::Write, $store);
    }
}
