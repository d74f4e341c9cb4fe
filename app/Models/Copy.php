<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $set_id
 * @property int $workload_id that of the set
 * @property int $store_id
 * @property int $part which part of its set, from 0
 * @property string $path bytes, below the root of the store
 * @property string $state
 * @property int $bytes
 * @property string|null $state_because
 * @property CarbonImmutable|null $checked_at
 * @property list<array{label: string, position: int, bytes: int}>|null $segments on tape
 * @property bool|null $gzipped
 * @property array{ranges?: list<array{int, int}>, contents?: int, bytes?: int, beside?: list<string>}|null $damage
 * @property bool $has_beside
 * @property-read Store $store
 * @property-read BackupSet $set
 */
final class Copy extends Model
{
    protected $guarded = [];

    protected $attributes = ['part' => 0];

    protected function casts(): array
    {
        return [
            'checked_at' => 'immutable_datetime',
            'segments' => 'array',
            'gzipped' => 'boolean',
            'damage' => 'array',
            'has_beside' => 'boolean',
        ];
    }

    protected static function booted(): void
    {
        self::creating(function (self $copy): void {
            $copy->workload_id ??= (int) BackupSet::query()->whereKey($copy->set_id)->value('workload_id');
        });
    }

    /** @return BelongsTo<Store, $this> */
    public function store(): BelongsTo
    {
        return $this->belongsTo(Store::class);
    }

    /** @return BelongsTo<BackupSet, $this> */
    public function set(): BelongsTo
    {
        return $this->belongsTo(BackupSet::class, 'set_id');
    }
}
