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
 * @property string|null $digest BLAKE2b-256 of the archive as it was registered, hex
 * @property array<string, string>|null $beside ending of a file beside the archive => its digest, hex
 * @property string|null $index_digest
 * @property array<string, int|float>|null $measures
 * @property float|null $made_in_s
 * @property list<array{when: string, command: list<string>, exit: int|null, output: string, seconds: float}>|null $commands
 * @property array<string, mixed>|null $facts what it says of itself, as its kind keeps it
 * @property int $doubtful files at this point whose content is in doubt
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
            'captured_at' => 'immutable_datetime',
            'captured_from' => 'immutable_datetime',
            'base_recorded' => 'boolean',
            'in_doubt' => 'boolean',
            'checkpoint' => 'boolean',
            'seekable' => 'boolean',
            'remarks' => 'array',
            'beside' => 'array',
            'measures' => 'array',
            'commands' => 'array',
            'facts' => 'array',
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

    /**
     * The catalog has one place for each instant of a history: of two sets of one second they are taken in the order in which they come.
     *
     * @param  int|null  $except  id of a set that may have it already
     */
    public static function freeInstant(int $history, int $instant, ?int $except = null): int
    {
        $of = self::query()->where('history_id', $history)->where('id', '<>', $except ?? 0);
        while ((clone $of)->where('instant', $instant)->exists()) {
            $instant++;
        }

        return $instant;
    }

    /** The set next to it in its history: the one after it, or the one before. */
    public function neighbour(bool $after): ?self
    {
        return self::query()
            ->where('history_id', $this->history_id)
            ->where('instant', $after ? '>' : '<', $this->instant)
            ->orderBy('instant', $after ? 'asc' : 'desc')
            ->first();
    }

    /** @return HasMany<Copy, $this> */
    public function copies(): HasMany
    {
        return $this->hasMany(Copy::class, 'set_id');
    }
}
