<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $set_id
 * @property string $reason
 * @property CarbonImmutable|null $until
 * @property int|null $request_id
 * @property CarbonImmutable|null $lifted_at
 * @property CarbonImmutable $created_at
 * @property-read BackupSet $set
 * @property-read User|null $user
 */
final class Hold extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['until' => 'immutable_datetime', 'lifted_at' => 'immutable_datetime', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<BackupSet, $this> */
    public function set(): BelongsTo
    {
        return $this->belongsTo(BackupSet::class, 'set_id');
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /**
     * Those that hold now, of one workload.
     *
     * @return Builder<self>
     */
    public static function ofWorkload(Workload $workload): Builder
    {
        return self::query()
            ->whereIn('set_id', $workload->sets()->select('id'))
            ->whereNull('lifted_at')
            ->where(fn (Builder $query) => $query->whereNull('until')->orWhere('until', '>', now()));
    }
}
