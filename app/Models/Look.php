<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What was found by a look that takes too long for a page.
 *
 * @property int $id
 * @property int $request_id
 * @property string $fingerprint
 * @property class-string<\App\Kinds\Look> $type
 * @property array<string, string> $asked
 * @property string $state waiting, running, done, failed
 * @property string|null $told
 * @property array<string, mixed>|null $found of the last time that it came to its end
 * @property string|null $failure
 * @property string|null $worker
 * @property CarbonImmutable $asked_at
 * @property CarbonImmutable|null $began_at
 * @property CarbonImmutable|null $ended_at
 * @property-read RecoveryRequest $request
 */
final class Look extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.v';

    protected function casts(): array
    {
        return [
            'asked' => 'array',
            'found' => 'array',
            'asked_at' => 'immutable_datetime',
            'began_at' => 'immutable_datetime',
            'ended_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<RecoveryRequest, $this> */
    public function request(): BelongsTo
    {
        return $this->belongsTo(RecoveryRequest::class);
    }
}
