<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $workload_id
 * @property int $history_id
 * @property string $name
 * @property string $level
 * @property int $instant microseconds since 1970, the key in the catalog
 * @property CarbonImmutable $captured_at
 * @property CarbonImmutable|null $captured_from
 * @property int|null $base_id
 * @property int|null $tried_base_id what it was resolved against, also where that was found not to be its base
 * @property bool $base_recorded
 * @property string|null $base_name
 * @property string|null $base_unknown_because
 * @property string $consistency
 * @property bool $in_doubt
 * @property string $cataloged
 * @property bool $checkpoint
 * @property int $bytes
 * @property int $entries
 * @property int $tree_files
 * @property int $tree_bytes
 * @property bool $seekable
 * @property list<string>|null $remarks
 * @property-read Workload $workload
 * @property-read BackupSet|null $base
 * @property-read \Illuminate\Database\Eloquent\Collection<int, Copy> $copies
 */
final class BackupSet extends Model
{
    protected $table = 'sets';

    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    protected function casts(): array
    {
        return [
            'captured_at' => 'immutable_datetime', 'captured_from' => 'immutable_datetime', 'base_recorded' => 'boolean',
            'in_doubt' => 'boolean', 'checkpoint' => 'boolean', 'seekable' => 'boolean', 'remarks' => 'array',
        ];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<BackupSet, $this> */
    public function base(): BelongsTo
    {
        return $this->belongsTo(self::class, 'base_id');
    }

    /** @return HasMany<Copy, $this> */
    public function copies(): HasMany
    {
        return $this->hasMany(Copy::class, 'set_id');
    }
}
