<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\BackupSet;
use App\Models\User;

final class BackupSetPolicy
{
    /** Takes a file out of it. */
    public function open(User $user, BackupSet $set): bool
    {
        return $user->can('browse', $set->workload);
    }
}
