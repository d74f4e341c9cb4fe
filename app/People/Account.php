<?php

declare(strict_types=1);

namespace App\People;

use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** Writes down what was changed of a person, or a new one. */
final class Account
{
    /**
     * What they may see and do is asked anew: they sign in again.
     *
     * @return string what was done
     */
    public static function save(User $person, ?User $by): string
    {
        $isNew = ! $person->exists;
        $changed = array_keys($person->getDirty());
        $told = $isNew
            ? "{$person->email} may sign in as {$person->role->value}."
            : "Of {$person->email} changed: ".($changed === [] ? 'nothing' : implode(', ', $changed)).'. Their sessions were ended.';
        DB::transaction(function () use ($person, $by, $told): void {
            $person->save();
            DB::table('sessions')->where('user_id', $person->id)->delete();
            TrailEntry::add($told, null, $by, sort: TrailSort::Account);
        });

        return $told;
    }

    /** Whether nobody could say who may reach what any more, if this person did not. */
    public static function isLastAdministrator(User $person): bool
    {
        return $person->role === Role::Administrator &&
            $person->locked_at === null &&
            ! User::query()->where('role', Role::Administrator)->whereNull('locked_at')->whereKeyNot($person->id)->exists();
    }
}
