<?php

declare(strict_types=1);

namespace App\Rights;

use App\Models\TargetRight;
use App\Models\User;
use App\Models\Workload;

/** Groups are words that workloads, people and targets share; one is known from the moment that anything has it. */
final class Groups
{
    /** @return list<string> in their order */
    public static function known(): array
    {
        $groups = [
            ...Workload::query()->distinct()->pluck('group')->all(),
            ...TargetRight::query()->distinct()->pluck('group')->all(),
            ...array_merge(...User::query()->whereNotNull('workload_groups')->get()->map(fn (User $user): array => $user->groups())->all()),
        ];
        $groups = array_values(array_unique(array_map(strval(...), $groups)));
        sort($groups, SORT_STRING);

        return $groups;
    }
}
