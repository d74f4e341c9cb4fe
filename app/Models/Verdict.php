<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $set_id
 * @property string $verdict good, doubt, or none to take one back
 * @property string $reason
 * @property CarbonImmutable $at
 * @property-read User|null $user
 */
final class Verdict extends Model
{
    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    public $timestamps = false;

    protected function casts(): array
    {
        return ['at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
