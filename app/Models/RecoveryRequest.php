<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Order\WantedWords;

/**
 * @property int $id
 * @property int|null $workload_id
 * @property int $requester_id
 * @property int|null $operator_id
 * @property string $summary
 * @property string $reason
 * @property string|null $lost
 * @property CarbonImmutable $wanted_at
 * @property CarbonImmutable|null $noticed_at
 * @property CarbonImmutable $due_at
 * @property string $state
 * @property int|null $set_id
 * @property string $demands
 * @property CarbonImmutable|null $starts_at when a run that is ordered begins
 * @property list<string>|null $use_copies
 * @property list<string>|null $avoid_copies
 * @property string|null $wanted_words
 * @property string|null $wanted_zone
 * @property CarbonImmutable|null $wanted_said_at
 * @property array{kind: string, version: int, said: array<string, mixed>}|null $said what was decided, as its kind keeps it
 * @property string|null $answer
 * @property string|null $answer_words
 * @property CarbonImmutable|null $closed_at
 * @property CarbonImmutable $created_at
 * @property-read Workload|null $workload
 * @property-read User $requester
 * @property-read \Illuminate\Database\Eloquent\Collection<int, Run> $runs
 */
final class RecoveryRequest extends Model
{
    protected $table = 'requests';

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'wanted_at' => 'immutable_datetime',
            'noticed_at' => 'immutable_datetime',
            'due_at' => 'immutable_datetime',
            'closed_at' => 'immutable_datetime',
            'created_at' => 'immutable_datetime',
            'said' => 'array',
            'use_copies' => 'array',
            'starts_at' => 'immutable_datetime',
            'avoid_copies' => 'array',
            'wanted_said_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<User, $this> */
    public function requester(): BelongsTo
    {
        return $this->belongsTo(User::class, 'requester_id');
    }

    /** @return HasMany<Approval, $this> */
    public function approvals(): HasMany
    {
        return $this->hasMany(Approval::class, 'request_id')->latest('id');
    }

    /** @return HasMany<Look, $this> */
    public function looks(): HasMany
    {
        return $this->hasMany(Look::class, 'request_id');
    }

    /** @return HasMany<Run, $this> */
    public function runs(): HasMany
    {
        return $this->hasMany(Run::class, 'request_id')->latest('id');
    }

    /**
     * Takes a moment as it was said, in words or figures.
     *
     * @throws \InvalidArgumentException if it cannot be read
     */
    public function wantAsSaid(string $words, string $zone): void
    {
        $now = CarbonImmutable::now();
        $span = (new WantedWords(Instant::of($now), $zone))->read($words);
        $this->wanted_at = CarbonImmutable::instance($span->to->in());
        $this->wanted_words = $span->assumption === null ? null : mb_substr($words, 0, 200);
        $this->wanted_zone = $zone;
        $this->wanted_said_at = $now;
    }

    /**
     * What was said of it to a kind; nothing if that was another.
     *
     * @return array<string, mixed>
     */
    public function saidOf(string $kind): array
    {
        return ($this->said['kind'] ?? null) === $kind ? $this->said['said'] : [];
    }

    /** @param  array<string, mixed>  $said */
    public function say(string $kind, int $version, array $said): self
    {
        $this->said = ['kind' => $kind, 'version' => $version, 'said' => $said];

        return $this;
    }

    public function copyRule(): CopyRule
    {
        return new CopyRule($this->use_copies ?? [], $this->avoid_copies ?? []);
    }

    /**
     * Those that the person may see: a requester their own, everybody else those of the workloads they see.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        $query = self::query();
        if (! $user->seesWork()) {
            return $query->where('requester_id', $user->id);
        }
        if ($user->isLimited()) {
            $query->where(
                fn (Builder $q) => $q
                    ->whereNull('workload_id')
                    ->orWhere('requester_id', $user->id)
                    ->orWhereIn('workload_id', Workload::seenBy($user)->select('id')),
            );
        }

        return $query;
    }
}
