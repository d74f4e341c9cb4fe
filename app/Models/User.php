<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Foundation\Auth\User as Authenticatable;

/**
 * @property int $id
 * @property string $name
 * @property string $email
 * @property Role $role
 * @property list<string>|null $workload_groups null: all groups
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

    /** Whether they may see only some of the workloads. */
    public function isLimited(): bool
    {
        return $this->workload_groups !== null;
    }

    /** Whether workloads of this group are among those the person may see. */
    public function sees(string $group): bool
    {
        return $this->workload_groups === null || in_array($group, $this->workload_groups, true);
    }
}
