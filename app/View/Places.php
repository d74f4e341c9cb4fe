<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Role;
use App\Models\User;

/** The main places of the application, of which each person sees those that are theirs. */
final class Places
{
    /** @return array<string, string> address => name */
    public static function of(User $user): array
    {
        return [
            ...$user->role === Role::Administrator ? [] : ['/' => 'Desk'],
            ...$user->can('see-estate')
                ? ['/estate' => 'Estate', '/stores' => 'Stores', '/activity' => 'Activity', '/proofs' => 'Proofs']
                : [],
            ...$user->can('see-trail') ? ['/trail' => 'Trail'] : [],
            ...$user->can('see-rights') ? ['/rights' => 'Rights', '/people' => 'People'] : [],
        ];
    }
}
