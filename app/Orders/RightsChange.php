<?php

declare(strict_types=1);

namespace App\Orders;

use App\Models\Right;
use App\Models\Role;
use App\Models\Target;
use App\Models\User;
use App\Models\Workload;
use App\Rights\CannotGive;
use App\Rights\RightsBook;

/** A rule as somebody says it at a page: a second person is asked where it gives more, and a marked original lies at the target. */
final class RightsChange
{
    /**
     * @param  list<Right>|null  $rights  null: the group has nothing to do with the target any more
     * @return string what was done, or that somebody else must say yes
     *
     * @throws CannotGive|CannotOrder
     */
    public static function say(Target $target, string $group, Role $role, ?array $rights, User $by): string
    {
        $marked = RightsBook::widens($target, $group, $role, $rights ?? []) ? self::marked($target) : null;
        if ($marked === null) {
            return RightsBook::settle($target, $group, $role, $rights, $by);
        }
        $detail = [
            'sort' => $target::sort(),
            'target' => $target->id(),
            'group' => $group,
            'role' => $role->value,
            'rights' => array_map(fn (Right $right): string => $right->value, $rights ?? []),
        ];
        $words = "Give the {$role->value}s of $group on the {$target::sort()} {$target->name()}: ".Right::words($rights ?? []).'.';

        return Deeds::Rights->doOrAsk($marked, $detail, $words, $by);
    }

    /** The first workload with its original there that waits for a second person. */
    private static function marked(Target $target): ?Workload
    {
        foreach ($target->originals() as $workload) {
            if ($workload->needs_approval) {
                return $workload;
            }
        }

        return null;
    }
}
