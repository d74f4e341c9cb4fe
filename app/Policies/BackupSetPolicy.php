<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\BackupSet;
use App\Models\User;

final class BackupSetPolicy
{
    public function view(User $user, BackupSet $set): bool
    {
        return $user->can('view', $set->workload);
    }

    public function tend(User $user, BackupSet $set): bool
    {
        return $user->can('tend', $set->workload);
    }

    /** Takes a file out of it. */
    public function open(User $user, BackupSet $set): bool
    {
        return $user->can('browse', $set->workload);
    }
}
