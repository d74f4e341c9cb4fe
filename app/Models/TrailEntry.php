<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
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
        self::query()->create([
            'what' => mb_substr($what, 0, 1000), 'at' => now(),
            'request_id' => $request?->id, 'user_id' => $user?->id, 'run_id' => $run?->id,
            'workload_id' => $run->workload_id ?? $request?->workload_id,
        ]);
    }

    /**
     * Of a request, what is about workloads that the person sees, the newest first.
     *
     * @return Collection<int, self>
     */
    public static function of(RecoveryRequest $request, User $user): Collection
    {
        return self::query()->with('user')->where('request_id', $request->id)
            ->where(fn (Builder $query) => $query->whereNull('workload_id')
                ->orWhereIn('workload_id', Workload::seenBy($user)->select('id')))
            ->latest('id')->limit(20)->get();
    }
}
