<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property string $name
 * @property string $kind folder or sftp
 * @property string $site
 * @property string $folder
 * @property string|null $address
 * @property int|null $port
 * @property string|null $user
 * @property string|null $fingerprint
 * @property CarbonImmutable|null $tested_at
 */
final class Host extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['tested_at' => 'immutable_datetime'];
    }
}
