<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Line\ComesByCode;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\View\WaitingThing;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;

/**
 * A code by which a machine that a medium was started on makes itself known, once, for the sets of one workload; and that machine.
 *
 * @property int $id
 * @property int $workload_id
 * @property int|null $request_id
 * @property int|null $user_id
 * @property string $code
 * @property int $tries
 * @property CarbonImmutable $expires_at
 * @property string|null $token
 * @property string|null $phrase
 * @property string|null $address
 * @property array<string, mixed>|null $machine
 * @property array<string, mixed>|null $wish
 * @property CarbonImmutable|null $enrolled_at
 * @property CarbonImmutable|null $seen_at
 * @property CarbonImmutable|null $ended_at
 * @property string|null $ended_because
 * @property int|null $run_id
 * @property int $orders the number of those that it was given last; 0 for none
 * @property int|null $follow_minutes between two looks for a newer point, if its medium waits for one
 * @property int|null $maker_id the run that made the machine, where it was made for this
 * @property int|null $at_set_id that lies on its disks then
 * @property CarbonImmutable|null $stepped_at when it was looked for a newer one last
 * @property string|null $because why it cannot follow now
 * @property-read Workload $workload
 * @property-read RecoveryRequest|null $request
 * @property-read User|null $user
 * @property-read Run|null $run
 * @property-read BackupSet|null $atSet
 * @property-read Run|null $maker
 */
final class Enrolment extends Model
{
    use ComesByCode {
        end as private endOfCode;
    }

    protected $table = 'metal_enrolments';

    protected $guarded = [];

    public const MINUTES = 60;

    /** Seconds without a word, after which a medium is taken for gone. */
    public const SILENT = 120;

    protected function casts(): array
    {
        return [
            'machine' => 'array',
            'wish' => 'array',
            'expires_at' => 'immutable_datetime',
            'enrolled_at' => 'immutable_datetime',
            'seen_at' => 'immutable_datetime',
            'ended_at' => 'immutable_datetime',
            'stepped_at' => 'immutable_datetime',
        ];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<RecoveryRequest, $this> */
    public function request(): BelongsTo
    {
        return $this->belongsTo(RecoveryRequest::class, 'request_id');
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function maker(): BelongsTo
    {
        return $this->belongsTo(Run::class, 'maker_id');
    }

    /** Its code and its token are worth nothing any more. */
    public function end(string $because): void
    {
        $this->endOfCode($because);
        (new KeptTrees($this))->forget();
    }

    /** @param  User|null  $by  null at the terminal */
    public function endBy(?User $by): void
    {
        $this->ended_at !== null || $this->end(($by->name ?? 'somebody').' ended it');
        TrailEntry::add("The enrolment {$this->id} was ended.", $this->request, $by);
    }

    /** @return BelongsTo<BackupSet, $this> */
    public function atSet(): BelongsTo
    {
        return $this->belongsTo(BackupSet::class, 'at_set_id');
    }

    /** @return Collection<int, self> those whose media wait for newer points */
    public static function following(): Collection
    {
        return self::query()->whereNull('ended_at')->whereNotNull('follow_minutes')->with('workload', 'run', 'atSet')->orderBy('id')->get();
    }

    /** Whether its medium waits for newer points. */
    public function isFollowing(): bool
    {
        return $this->follow_minutes !== null && $this->ended_at === null;
    }

    /** From now on a set lies on its disks, and its medium waits for a newer one. */
    public function inStep(?int $set, ?int $minutes): void
    {
        $this->update(['at_set_id' => $set, 'follow_minutes' => $minutes, 'stepped_at' => now(), 'because' => null]);
    }

    /** Seconds since the moment that it is at; null where that set is gone. */
    public function lag(): ?int
    {
        return $this->atSet === null ? null : (int) abs(now()->diffInSeconds($this->atSet->captured_at));
    }

    /** @return array{self, string} with the code, which nobody can be told again */
    public static function open(Workload $workload, ?RecoveryRequest $request, ?User $by, int $minutes = self::MINUTES): array
    {
        [$one, $code] = self::await(['workload_id' => $workload->id, 'request_id' => $request?->id, 'user_id' => $by?->id], $minutes);
        TrailEntry::add("A code for a recovery medium was made, for {$workload->name}: enrolment {$one->id}.", $request, $by);

        return [$one, $code];
    }

    /** @return array{self, string}|null with its token; null if the code is none that lets it in */
    public static function enrol(string $typed, TargetMachine $machine, string $address): ?array
    {
        return self::admit($typed, $address, ['machine' => json_encode($machine->toArray())]);
    }

    /** @return Collection<int, self> those of a request that are not over */
    public static function ofRequest(RecoveryRequest $request): Collection
    {
        return self::query()->where('request_id', $request->id)->whereNull('ended_at')->orderBy('id')->get();
    }

    private function named(): string
    {
        return "enrolment {$this->id}, for {$this->workload->name}";
    }

    private function requestOf(): ?RecoveryRequest
    {
        return $this->request;
    }

    public function targetMachine(): TargetMachine
    {
        return TargetMachine::said(Said::of($this->machine ?? []));
    }

    /** What was said on its page of how its disks are laid out. */
    public function layoutWish(): LayoutWish
    {
        $said = $this->wish ?? [];

        return new LayoutWish(
            array_map(strval(...), (array) ($said['onto'] ?? [])),
            array_values(array_map(strval(...), (array) ($said['without'] ?? []))),
            array_map(intval(...), (array) ($said['sizes'] ?? [])),
        );
    }

    /** What waits for somebody, as long as it is kept in step. */
    public function waiting(): WaitingThing
    {
        $lag = $this->lag();
        $because = $this->because ?? ($this->isSilent() ? 'its medium is silent' : null);

        return new WaitingThing(
            $because !== null ? 70 : 20,
            $this->workload->name,
            "the machine of enrolment {$this->id} waits for newer points".($lag === null ? '' : ', '.Words::duration($lag).' behind').
                ($because === null ? '' : ", and cannot go on: $because"),
            $this->stepped_at,
            'Look at it',
            $this->page(),
            "enrolment-{$this->id}",
        );
    }

    public function page(): string
    {
        return "/enrolments/{$this->id}";
    }

    /** In words. */
    public function state(): string
    {
        return match (true) {
            $this->ended_at !== null => 'is over: '.$this->ended_because,
            $this->token === null => $this->expires_at->isPast() ? 'is over: nobody came in time' : 'waits for a machine',
            $this->isSilent() => 'is silent',
            $this->run !== null && ! $this->run->isOver() => "is worked on by run {$this->run_id}",
            $this->isFollowing() => 'waits for newer points',
            default => 'waits for orders',
        };
    }
}
