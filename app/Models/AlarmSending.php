<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $alarm_id
 * @property int $receiver_id
 * @property int $sent
 * @property int $failed
 * @property string|null $failure
 * @property CarbonImmutable|null $sent_at
 * @property CarbonImmutable $next_at
 */
final class AlarmSending extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['sent_at' => 'immutable_datetime', 'next_at' => 'immutable_datetime'];
    }
}
