<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Timetable;

/**
 * @property int $id
 * @property int|null $workload_id
 * @property string|null $group
 * @property int $store_id
 * @property list<array{string, string}> $times cron expression and level
 * @property string $zone
 * @property string|null $window_from
 * @property string|null $window_until
 * @property list<string>|null $copy_to names of stores
 * @property string|null $copy_from HH:MM
 * @property list<string>|null $before
 * @property list<string>|null $after
 * @property int $limit_s
 * @property bool $on
 * @property CarbonImmutable|null $considered_at
 * @property-read Workload|null $workload
 * @property-read Store $store
 */
final class Schedule extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'times' => 'array',
            'copy_to' => 'array',
            'before' => 'array',
            'after' => 'array',
            'on' => 'boolean',
            'considered_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<Store, $this> */
    public function store(): BelongsTo
    {
        return $this->belongsTo(Store::class);
    }

    public function timetable(): Timetable
    {
        return Timetable::of($this->times, $this->zone, $this->window_from, $this->window_until);
    }

    /** When a set is made next, and of what level; null if it is off. */
    public function next(): ?CarbonImmutable
    {
        $next = $this->on ? $this->timetable()->next(Instant::of(now())) : null;

        return $next === null ? null : CarbonImmutable::instance($next[0]->in());
    }
}
