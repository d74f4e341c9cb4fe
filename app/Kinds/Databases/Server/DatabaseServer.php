<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property string $name
 * @property string $host
 * @property int $port
 * @property string $user
 * @property string $password
 * @property string $site
 * @property string|null $asking_user an account that can only read, by which questions are asked; null: one is made for each
 * @property string|null $asking_password
 * @property array<string, mixed>|null $facts
 * @property CarbonImmutable|null $asked_at
 */
final class DatabaseServer extends Model
{
    protected $guarded = [];

    protected $hidden = ['password', 'asking_password'];

    protected function casts(): array
    {
        return ['password' => 'encrypted', 'asking_password' => 'encrypted', 'facts' => 'array', 'asked_at' => 'immutable_datetime'];
    }
}
