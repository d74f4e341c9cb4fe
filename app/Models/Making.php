<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $workload_id
 * @property int $store_id
 * @property string $level as asked
 * @property string $why
 * @property string $state queued, running, done, failed or missed
 * @property string|null $set_name
 * @property int $entries
 * @property string|null $failure
 * @property string|null $worker
 * @property int|null $user_id
 * @property CarbonImmutable|null $started_at
 * @property CarbonImmutable|null $ended_at
 * @property CarbonImmutable $created_at
 * @property-read Workload $workload
 * @property-read Store $store
 */
final class Making extends Model
{
    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    protected function casts(): array
    {
        return ['started_at' => 'immutable_datetime', 'ended_at' => 'immutable_datetime', 'created_at' => 'immutable_datetime'];
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
}
