<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int|null $copy_id
 * @property int $workload_id
 * @property string $set_name
 * @property string $store_name
 * @property string $result right, damaged, missing, mended or silent
 * @property string|null $because
 * @property int $bytes
 * @property float $seconds
 * @property bool $planned
 * @property CarbonImmutable $at
 * @property-read User|null $user
 */
final class Check extends Model
{
    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    public $timestamps = false;

    protected function casts(): array
    {
        return ['at' => 'immutable_datetime', 'planned' => 'boolean'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** Whether what was read is as it should be. */
    public function isRight(): bool
    {
        return $this->result === 'right' || $this->result === 'mended';
    }
}
