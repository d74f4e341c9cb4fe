<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property AlarmSort $sort
 * @property string|null $open the cause; null when it is over
 * @property string $words
 * @property string $page
 * @property int|null $workload_id
 * @property CarbonImmutable $raised_at
 * @property int|null $taken_by
 * @property CarbonImmutable|null $taken_at
 * @property CarbonImmutable|null $over_at
 * @property-read Workload|null $workload
 * @property-read User|null $taker
 */
final class Alarm extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'sort' => AlarmSort::class, 'raised_at' => 'immutable_datetime', 'taken_at' => 'immutable_datetime',
            'over_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<User, $this> */
    public function taker(): BelongsTo
    {
        return $this->belongsTo(User::class, 'taken_by');
    }

    /**
     * Of workloads that the person sees; those of no workload are for who sees all.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        $query = self::query();

        return $user->isLimited() ? $query->whereIn('workload_id', Workload::seenBy($user)->select('id')) : $query;
    }
}
