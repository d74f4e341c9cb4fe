<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * @property int $run_id
 * @property int $position
 * @property string $name
 * @property string $state waiting, running, done or failed
 * @property string|null $detail
 * @property CarbonImmutable|null $started_at
 * @property CarbonImmutable|null $ended_at
 */
final class RunStep extends Model
{
    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    public $timestamps = false;

    protected function casts(): array
    {
        return ['started_at' => 'immutable_datetime', 'ended_at' => 'immutable_datetime'];
    }

    /** Null while it is not over. */
    public function seconds(): ?float
    {
        return $this->started_at === null || $this->ended_at === null
            ? null
            : ($this->ended_at->getTimestampMs() - $this->started_at->getTimestampMs()) / 1000;
    }
}
