<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A deed on a workload that waits for a second person.
 *
 * @property int $id
 * @property int $workload_id
 * @property string $deed one of App\Orders\Deeds
 * @property array<string, mixed> $detail
 * @property string $words
 * @property string $state asked, approved, refused, withdrawn or failed
 * @property int $asked_by
 * @property CarbonImmutable $asked_at
 * @property string|null $asked_from mark of the browser
 * @property int|null $decided_by
 * @property CarbonImmutable|null $decided_at
 * @property string|null $decision_words
 * @property-read Workload $workload
 * @property-read User $asker
 * @property-read User|null $decider
 */
final class Consent extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['detail' => 'array', 'asked_at' => 'immutable_datetime', 'decided_at' => 'immutable_datetime'];
    }

    public function title(): string
    {
        return match ($this->state) {
            'asked' => 'Waits for a second person',
            'approved' => 'Said yes to',
            'failed' => 'Said yes to, and not done',
            'refused' => 'Refused',
            default => 'Withdrawn',
        };
    }

    /** Of what the second person says yes to: the deed, what it is told, and the words that were shown. */
    public function fingerprint(): string
    {
        return hash('sha256', json_encode([$this->id, $this->deed, $this->workload_id, $this->detail, $this->words], JSON_THROW_ON_ERROR));
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<User, $this> */
    public function asker(): BelongsTo
    {
        return $this->belongsTo(User::class, 'asked_by');
    }

    /** @return BelongsTo<User, $this> */
    public function decider(): BelongsTo
    {
        return $this->belongsTo(User::class, 'decided_by');
    }

    /**
     * Those of workloads that the person may see.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        return self::query()->with('workload', 'asker')->whereIn('workload_id', Workload::seenBy($user)->select('id'));
    }
}
