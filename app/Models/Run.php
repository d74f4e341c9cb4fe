<?php

declare(strict_types=1);

namespace App\Models;

use App\Kinds\Kinds;
use App\Kinds\OffersOwn;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\Relations\HasOne;

/**
 * @property int $id
 * @property int|null $request_id
 * @property int $workload_id
 * @property string|null $kind that carries it out, where it is not the workload's
 * @property int|null $set_id null once the point expired
 * @property string $set_name of the point
 * @property CarbonImmutable $point_at
 * @property int|null $user_id
 * @property string $state
 * @property array<string, mixed> $plan the order as it was confirmed: a document of its kind
 * @property bool $is_whole whether all of the workload was ordered
 * @property string|null $taken_as zip or tar.gz, of what a browser takes; null for what is brought to a target
 * @property array<string, mixed>|null $outcome
 * @property array{likely: float, least: float, most: float, lanes: list<string>}|null $estimate
 * @property list<string>|null $waits_for
 * @property string|null $failure
 * @property string|null $worker
 * @property CarbonImmutable|null $starts_at not begun before
 * @property CarbonImmutable|null $put_back_at
 * @property CarbonImmutable|null $set_aside_until until when what it replaced is kept
 * @property bool $stop_asked
 * @property int $files_done
 * @property int $files_total
 * @property int $bytes_done
 * @property int $bytes_total
 * @property CarbonImmutable|null $heartbeat_at
 * @property CarbonImmutable|null $started_at
 * @property CarbonImmutable|null $ended_at
 * @property CarbonImmutable $created_at
 * @property-read RecoveryRequest|null $request
 * @property-read Workload $workload
 * @property-read BackupSet $set while the point is there, as it is for whatever is not over
 * @property-read User|null $user
 * @property-read Approval|null $approval
 * @property-read \Illuminate\Database\Eloquent\Collection<int, RunStep> $steps
 */
final class Run extends Model
{
    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    protected function casts(): array
    {
        return [
            'plan' => 'array',
            'estimate' => 'array',
            'waits_for' => 'array',
            'outcome' => 'array',
            'stop_asked' => 'boolean',
            'is_whole' => 'boolean',
            'heartbeat_at' => 'immutable_datetime',
            'started_at' => 'immutable_datetime',
            'ended_at' => 'immutable_datetime',
            'created_at' => 'immutable_datetime',
            'point_at' => 'immutable_datetime',
            'starts_at' => 'immutable_datetime',
            'put_back_at' => 'immutable_datetime',
            'set_aside_until' => 'immutable_datetime',
        ];
    }

    protected static function booted(): void
    {
        self::creating(function (self $run): void {
            $set = BackupSet::query()->find($run->set_id);
            $run->fill(['set_name' => $set?->name, 'point_at' => $set?->captured_at]);
        });
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

    /** @return BelongsTo<BackupSet, $this> */
    public function set(): BelongsTo
    {
        return $this->belongsTo(BackupSet::class, 'set_id');
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return HasOne<Approval, $this> */
    public function approval(): HasOne
    {
        return $this->hasOne(Approval::class, 'run_id');
    }

    /** @return HasMany<RunStep, $this> */
    public function steps(): HasMany
    {
        return $this->hasMany(RunStep::class)->orderBy('position');
    }

    /** @return array<int, bool> ids of the sets of a workload that were restored and found right */
    public static function provenOf(Workload $workload): array
    {
        return self::query()
            ->where('workload_id', $workload->id)
            ->where('state', 'done')
            ->where('outcome->right', true)
            ->whereNull('taken_as')
            ->whereNotNull('set_id')
            ->distinct()
            ->pluck('set_id')
            ->mapWithKeys(fn (int $id): array => [$id => true])
            ->all();
    }

    /** Seconds from its beginning to its end; null while it is not over. */
    public function seconds(): ?float
    {
        return $this->started_at === null || $this->ended_at === null
            ? null
            : max(0.0, ($this->ended_at->getTimestampMs() - $this->started_at->getTimestampMs()) / 1000);
    }

    /** How long it took, beside what was told before it. */
    public function tookInWords(): string
    {
        $told = $this->estimate;
        $words = fn (string $which): string => Words::duration($told[$which]);

        return Words::duration(max(0.1, (float) $this->seconds()))
            .($told === null ? '' : ", told before: about {$words('likely')} ({$words('least')} to {$words('most')})");
    }

    /** A name that no other run has, also not one of the same number of a desk that was set up anew. */
    public function label(): string
    {
        return $this->id.'_'.hash('crc32b', $this->created_at->format('Y-m-d H:i:s'));
    }

    public function isOver(): bool
    {
        return in_array($this->state, ['done', 'failed', 'stopped'], true);
    }

    /** Whether who ordered it brings back what is their own by it. */
    public function isOwn(): bool
    {
        $kind = Kinds::of($this);

        return $kind instanceof OffersOwn && $kind->isOwn($this);
    }

    /** The address of the page that tells of it. */
    public function page(): string
    {
        return $this->request_id === null ? "/runs/{$this->id}" : "/requests/{$this->request_id}?show=proof";
    }

    /** The view that tells what came of it, or how far it is. */
    public function view(): string
    {
        return Kinds::of($this)->view('run');
    }

    /** The order as a sentence, with moments in a zone. */
    public function sentence(string $zone): string
    {
        return Kinds::of($this)->carrier()->sentence($this, $zone);
    }

    /** How far it is, in a few words; '' where there are none. */
    public function howFar(): string
    {
        return Kinds::of($this)->carrier()->howFar($this);
    }

    /** Whether it is over, and something it did to its target can still be undone. */
    public function canBePutBack(): bool
    {
        return $this->isOver() &&
            $this->put_back_at === null &&
            ! $this->isBeingPutBack() &&
            Kinds::of($this)->carrier()->canBePutBack($this);
    }

    /** Whether somebody has asked for it, and a worker has not done it yet. */
    public function isBeingPutBack(): bool
    {
        return $this->put_back_at === null && ($this->outcome['put_back']['state'] ?? '') === 'asked';
    }

    /** The workload it changed, or whose place it changed, that is marked so that this needs a second person; null if none is. */
    public function marked(): ?Workload
    {
        return $this->workload->needs_approval ? $this->workload : $this->markedPlace();
    }

    /** The marked workload whose place it brought something to; null if it went beside them. */
    public function markedPlace(): ?Workload
    {
        return Kinds::of($this)->carrier()->touches($this)->marked()[0] ?? null;
    }

    /** Whether a second person said yes to it, or it was begun without and somebody reviews that. */
    public function wasAgreedTo(): bool
    {
        return Approval::query()->where('run_id', $this->id)->whereIn('state', ['approved', 'overridden'])->exists();
    }

    /** Whether it ended before its work did, and can be gone on with. */
    public function canBeGoneOnWith(): bool
    {
        return in_array($this->state, ['stopped', 'failed'], true) &&
            $this->put_back_at === null &&
            $this->set_id !== null &&
            $this->taken_as === null;
    }

    /** Puts it back into the queue: what was staged or placed before stays, if it is right. */
    public function goOn(): void
    {
        $this->update([
            'state' => 'queued',
            'worker' => null,
            'waits_for' => null,
            'stop_asked' => false,
            'failure' => null,
            'ended_at' => null,
        ]);
    }
}
