<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Own;

use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * That a person, or all who see a group, may bring a machine onto other disks themselves: as often as they need it, or once.
 *
 * @property int $id
 * @property int $workload_id
 * @property int|null $user_id
 * @property string|null $group
 * @property bool $once
 * @property int|null $run_id by which one that is good once was used
 * @property CarbonImmutable|null $used_at
 * @property-read Workload $workload
 * @property-read User|null $user
 */
final class OwnMachine extends Model
{
    protected $table = 'own_machines';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['once' => 'boolean', 'used_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return Builder<self> those that are a person's, used up or not */
    private static function of(User $user): Builder
    {
        return self::query()->where(fn (Builder $whose) => $whose
            ->where('user_id', $user->id)
            ->orWhere(fn (Builder $all) => $all
                ->whereNull('user_id')
                ->when(! $user->seesAllGroups(), fn (Builder $seen) => $seen->whereIn('group', $user->groups()))));
    }

    /** @return Collection<int, Workload> those that a person may bring onto other disks now */
    public static function machines(User $user): Collection
    {
        $may = self::of($user)->whereNull('used_at')->select('workload_id');

        return Workload::query()->whereIn('id', $may)->orderBy('name')->get()
            ->filter(fn (Workload $workload): bool => $user->sees($workload->group));
    }

    /** By which a person may; null if they may not. One that does not end is taken before one that is good once. */
    public static function by(User $user, Workload $workload): ?self
    {
        return $user->sees($workload->group)
            ? self::of($user)->where('workload_id', $workload->id)->whereNull('used_at')->orderBy('once')->orderBy('id')->first()
            : null;
    }

    /** Whether a run goes by one that still holds. */
    public static function holds(Run $run): bool
    {
        $user = $run->user;

        return $user !== null && self::of($user)
            ->where('workload_id', $run->workload_id)
            ->where(fn (Builder $one) => $one->whereNull('used_at')->orWhere('run_id', $run->id))
            ->exists();
    }

    /** One that is good once is used up by this. */
    public function use(Run $run): void
    {
        $this->once && $this->update(['run_id' => $run->id, 'used_at' => now()]);
    }

    public function words(): string
    {
        $who = $this->user === null ? "all who see {$this->group}" : "{$this->user->name}, {$this->user->email},";

        return "$who may bring {$this->workload->name} onto other disks themselves".match (true) {
            ! $this->once => '',
            $this->used_at === null => ', once',
            default => ', once, which was used by run '.($this->run_id ?? 'that is gone'),
        };
    }
}
