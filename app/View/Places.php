<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\Kinds;
use App\Kinds\OffersOwn;
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
            ...self::own($user),
            ...$user->can('see-estate')
                ? ['/estate' => 'Estate', '/stores' => 'Stores', '/activity' => 'Activity', '/proofs' => 'Proofs']
                : [],
            ...$user->can('see-trail') ? ['/trail' => 'Trail'] : [],
            ...$user->can('see-rights') ? ['/rights' => 'Rights', '/people' => 'People'] : [],
        ];
    }

    /** @return array<string, string> where they bring back what is their own */
    private static function own(User $user): array
    {
        $pages = [];
        foreach (Kinds::all() as $kind) {
            $pages += $kind instanceof OffersOwn ? $kind->ownPages($user) : [];
        }

        return $pages;
    }
}
