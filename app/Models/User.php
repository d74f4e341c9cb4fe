<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Casts\Attribute;
use Illuminate\Foundation\Auth\User as Authenticatable;

/**
 * @property int $id
 * @property string $name
 * @property string $email
 * @property Role $role
 * @property list<string>|null $workload_groups null: all groups
 * @property list<string> $duties see Duty
 * @property string $zone
 * @property CarbonImmutable|null $locked_at cannot sign in since
 */
final class User extends Authenticatable
{
    protected $guarded = [];

    protected $hidden = ['password', 'remember_token'];

    protected function casts(): array
    {
        return ['password' => 'hashed', 'role' => Role::class, 'workload_groups' => 'array', 'locked_at' => 'immutable_datetime'];
    }

    /** @return Attribute<list<string>, list<string>> */
    protected function duties(): Attribute
    {
        return Attribute::make(
            get: fn (?string $kept): array => $kept === null ? [] : (array) json_decode($kept, true, flags: JSON_THROW_ON_ERROR),
            set: fn (array $duties): ?string => $duties === [] ? null : json_encode(array_values($duties), JSON_THROW_ON_ERROR),
        );
    }

    /** Whether it is theirs: of those only who work with what it is about. */
    public function hasDuty(Duty $duty): bool
    {
        return in_array($this->role, Role::withRights(), true) && in_array($duty->value, $this->duties, true);
    }

    /** Beside the role; '' for none that count with it. */
    public function dutiesInWords(): string
    {
        $has = array_filter(Duty::cases(), $this->hasDuty(...));

        return $has === [] ? '' : 'may '.implode(', ', array_map(fn (Duty $duty): string => $duty->words(), $has));
    }

    /** Whether the work of the desk is theirs to see, within their groups: not of who only asks, or only says who may reach what. */
    public function seesWork(): bool
    {
        return $this->role !== Role::Requester && $this->role !== Role::Administrator;
    }

    /** Whether they see every group; an administrator sees none. */
    public function seesAllGroups(): bool
    {
        return $this->workload_groups === null && $this->role !== Role::Administrator;
    }

    /** Whether they may see only some of the workloads, or none. */
    public function isLimited(): bool
    {
        return ! $this->seesAllGroups();
    }

    /** @return list<string> groups that a person who is limited sees */
    public function groups(): array
    {
        return $this->role === Role::Administrator ? [] : $this->workload_groups ?? [];
    }

    /** Whether workloads of this group are among those the person may see. */
    public function sees(string $group): bool
    {
        return $this->seesAllGroups() || in_array($group, $this->groups(), true);
    }
}
