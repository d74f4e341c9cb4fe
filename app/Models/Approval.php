<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $request_id
 * @property int|null $run_id
 * @property int|null $workload_id what it was about when it was asked
 * @property string $state asked, approved, refused, withdrawn or overridden
 * @property string $order fingerprint of what was shown
 * @property Duty|null $duty that whoever says yes must have
 * @property string $sentence
 * @property bool $set_first
 * @property array<string, array{entries: int, files: int, bytes: int}> $preview
 * @property int $asked_by
 * @property CarbonImmutable $asked_at
 * @property string|null $asked_from mark of the browser
 * @property int|null $decided_by
 * @property CarbonImmutable|null $decided_at
 * @property string|null $words
 * @property int|null $reviewed_by
 * @property CarbonImmutable|null $reviewed_at
 * @property string|null $review_words
 * @property-read RecoveryRequest $request
 * @property-read Workload|null $workload
 * @property-read User $asker
 * @property-read Run|null $run
 * @property-read User|null $decider
 * @property-read User|null $reviewer
 */
final class Approval extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'preview' => 'array',
            'duty' => Duty::class,
            'set_first' => 'boolean',
            'asked_at' => 'immutable_datetime',
            'decided_at' => 'immutable_datetime',
            'reviewed_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<RecoveryRequest, $this> */
    public function request(): BelongsTo
    {
        return $this->belongsTo(RecoveryRequest::class, 'request_id');
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
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

    /** @return BelongsTo<User, $this> */
    public function reviewer(): BelongsTo
    {
        return $this->belongsTo(User::class, 'reviewed_by');
    }

    /**
     * Those of requests that the person may see.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        return self::query()
            ->with('request.workload', 'asker')
            ->whereIn('request_id', RecoveryRequest::seenBy($user)->select('id'))
            ->whereIn('workload_id', Workload::seenBy($user)->select('id'));
    }

    /** Who said yes; of what was begun without, why, and whether somebody has looked at it since. */
    public function told(): string
    {
        if ($this->state !== 'overridden') {
            return (string) $this->decider?->name;
        }

        return $this->words.($this->isToBeReviewed() ? ' (to be reviewed)' : " (reviewed by {$this->reviewer?->name})");
    }

    /** Begun without a second person, and nobody has looked at it since. */
    public function isToBeReviewed(): bool
    {
        return $this->state === 'overridden' && $this->reviewed_at === null;
    }
}
