<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int|null $request_id
 * @property string $what
 * @property CarbonImmutable $at
 * @property-read User|null $user
 */
final class TrailEntry extends Model
{
    protected $table = 'trail';

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

    public static function add(string $what, ?RecoveryRequest $request, ?User $user, ?Run $run = null): void
    {
        self::query()->create(['what' => mb_substr($what, 0, 1000), 'request_id' => $request?->id, 'user_id' => $user?->id, 'run_id' => $run?->id, 'at' => now()]);
    }
}
