<?php

declare(strict_types=1);

namespace App\Rights;

use App\Models\Right;
use App\Models\Role;
use App\Models\Target;
use App\Models\TargetRight;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** Writes down who may do what with a target. */
final class RightsBook
{
    /**
     * Writes the rule down, and its line in the trail.
     *
     * @param  list<Right>|null  $rights  in place of the rule; null: the group has nothing to do with the target any more
     * @return string what was done
     *
     * @throws CannotGive
     */
    public static function settle(Target $target, string $group, Role $role, ?array $rights, ?User $by): string
    {
        self::mustBe($group, $role);
        $told = $rights === null
            ? "The {$role->value}s of $group have nothing to do with the {$target::sort()} {$target->name()} any more."
            : "The {$role->value}s of $group may do with the {$target::sort()} {$target->name()}: ".Right::words($rights).'.';
        DB::transaction(function () use ($target, $group, $role, $rights, $by, $told): void {
            if ($rights === null) {
                TargetRight::of($target)->where('group', $group)->where('role', $role)->delete();
            } else {
                TargetRight::give($target, $group, $role, $rights);
            }
            TrailEntry::add($told, null, $by, sort: TrailSort::Rule);
        });

        return $told;
    }

    private static function mustBe(string $group, Role $role): void
    {
        if (preg_match('/^[\p{L}\p{N}][\p{L}\p{N} ._-]{0,59}$/Du', $group) !== 1) {
            throw CannotGive::toGroup();
        }
        if (! in_array($role, Role::withRights(), true)) {
            throw CannotGive::toRole(array_map(fn (Role $one): string => $one->value, Role::withRights()));
        }
    }

    /**
     * Whether somebody may do something then that they may not now.
     *
     * @param  list<Right>  $rights
     */
    public static function widens(Target $target, string $group, Role $role, array $rights): bool
    {
        $now = TargetRight::of($target)->where('group', $group)->where('role', $role)->first()?->rights() ?? [];

        return array_udiff($rights, $now, fn (Right $a, Right $b): int => $a->value <=> $b->value) !== [];
    }
}
