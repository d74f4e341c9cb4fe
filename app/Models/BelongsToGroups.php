<?php

declare(strict_types=1);

namespace App\Models;

/**
 * A target's part in rights: from the moment it is made known, the operators of one group have all of them, as with workloads, which
 * are of that group too until it is said otherwise.
 *
 * @mixin \Illuminate\Database\Eloquent\Model
 */
trait BelongsToGroups
{
    public const FIRST_GROUP = 'general';

    public static function bootBelongsToGroups(): void
    {
        static::created(fn (self $target) => TargetRight::give($target, self::FIRST_GROUP, Role::Operator, Right::cases()));
        static::deleted(fn (self $target) => TargetRight::of($target)->delete());
    }

    public function id(): int
    {
        return (int) $this->getKey();
    }

    public function name(): string
    {
        return (string) $this->getAttribute('name');
    }
}
