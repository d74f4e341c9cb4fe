<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Foundation\Auth\User as Authenticatable;

/**
 * @property int $id
 * @property string $name
 * @property string $email
 * @property Role $role
 * @property list<string>|null $workload_groups null: all groups
 * @property string $zone
 */
final class User extends Authenticatable
{
    protected $guarded = [];

    protected $hidden = ['password', 'remember_token'];

    protected function casts(): array
    {
        return ['password' => 'hashed', 'role' => Role::class, 'workload_groups' => 'array'];
    }

    /** Whether workloads of this group are among those the person may see. */
    public function sees(string $group): bool
    {
        return $this->workload_groups === null || in_array($group, $this->workload_groups, true);
    }
}
