<?php

declare(strict_types=1);

namespace App\Models;

use App\Kinds\Databases\Server\DatabaseServer;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property string $name
 * @property string $kind
 * @property string $group
 * @property string $site
 * @property string $zone
 * @property string|null $source
 * @property int|null $server_id where a database lives
 * @property-read DatabaseServer|null $server
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

    /** @return BelongsTo<DatabaseServer, $this> */
    public function server(): BelongsTo
    {
        return $this->belongsTo(DatabaseServer::class, 'server_id');
    }

    /** @return HasMany<History, $this> */
    public function histories(): HasMany
    {
        return $this->hasMany(History::class);
    }

    /** Whether it is known where its original is, so that sets can be made of it. */
    public function hasOriginal(): bool
    {
        return $this->source !== null || $this->server_id !== null;
    }

    /** @return array<string, string> levels of the sets that are made of it => in words */
    public function levels(): array
    {
        return $this->kind === 'database' ? ['log' => 'log', 'full' => 'full'] : ['incr' => 'increment', 'diff' => 'differential', 'full' => 'full'];
    }

    /** Where a set of it can be written: a store that holds some already, else the first; adopted stores are read-only. */
    public function usualStore(): ?Store
    {
        return Store::query()->where('kind', 'folder')->where('read_only', false)->whereIn('id', Copy::query()->whereRelation('set', fn (Builder $query) => $query->where('workload_id', $this->id))->select('store_id'))->orderBy('id')->first()
            ?? Store::query()->where('kind', 'folder')->where('read_only', false)->orderBy('id')->first();
    }

    /**
     * Those that the person may see.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        $query = self::query();

        return $user->workload_groups === null ? $query : $query->whereIn('group', $user->workload_groups);
    }
}
