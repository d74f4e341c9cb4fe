<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;
use InvalidArgumentException;

/**
 * @property int $id
 * @property string $name
 * @property string $kind
 * @property string $group
 * @property string $site
 * @property string $zone
 * @property string|null $source the folder of the live original, where it is one
 * @property int|null $rpo_s objective: the newest usable point is not older
 * @property int|null $rto_s objective: a whole restore takes no longer
 * @property bool $needs_outside_copy
 * @property bool $needs_approval replacing anything in place waits for a second person
 * @property int $override_wait_min minutes that a run waits which is begun without one
 */
final class Workload extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['needs_outside_copy' => 'boolean', 'needs_approval' => 'boolean'];
    }

    /** @return HasMany<BackupSet, $this> */
    public function sets(): HasMany
    {
        return $this->hasMany(BackupSet::class);
    }

    /** @return HasMany<History, $this> */
    public function histories(): HasMany
    {
        return $this->hasMany(History::class);
    }

    /** Whether a name can be that of a workload: it is a folder's too. */
    public static function canBeNamed(string $name): bool
    {
        return preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) === 1;
    }

    /** @throws InvalidArgumentException if it cannot be that of one */
    public static function demandName(string $name): void
    {
        self::canBeNamed($name) || throw new InvalidArgumentException(
            'The name of a workload has letters, digits, dots, dashes and underscores, and at most 100 of them.',
        );
    }

    /** Where a set of it can be written: a store that holds some already, else the first; adopted stores are read-only. */
    public function usualStore(): ?Store
    {
        return Store::query()
            ->where('kind', 'folder')
            ->where('read_only', false)
            ->whereIn(
                'id',
                Copy::query()->whereRelation('set', fn (Builder $query) => $query->where('workload_id', $this->id))->select('store_id'),
            )
            ->orderBy('id')
            ->first() ?? Store::query()->where('kind', 'folder')->where('read_only', false)->orderBy('id')->first();
    }

    /**
     * Those that the person may see.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        $query = self::query();

        return $user->seesAllGroups() ? $query : $query->whereIn('group', $user->groups());
    }
}
