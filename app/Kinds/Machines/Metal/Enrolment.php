<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Metal\EnrolmentCode;
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
 * @property-read Workload $workload
 * @property-read RecoveryRequest|null $request
 * @property-read User|null $user
 * @property-read Run|null $run
 */
final class Enrolment extends Model
{
    protected $table = 'metal_enrolments';

    protected $guarded = [];

    public const MINUTES = 60;

    private const TRIES = 3;

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

    /** @return array{self, string} with the code, which nobody can be told again */
    public static function open(Workload $workload, ?RecoveryRequest $request, ?User $by, int $minutes = self::MINUTES): array
    {
        $words = EnrolmentCode::secret();
        $one = self::query()->create([
            'workload_id' => $workload->id,
            'request_id' => $request?->id,
            'user_id' => $by?->id,
            'code' => '',
            'expires_at' => now()->addMinutes($minutes),
        ]);
        $one->update(['code' => self::hashed($one->id, $words)]);
        TrailEntry::add("A code for a recovery medium was made, for {$workload->name}: enrolment {$one->id}.", $request, $by);

        return [$one, "{$one->id}-$words"];
    }

    /**
     * Gives a machine its token, if the code is right, was not used, and is not over. Three wrong ones end it.
     *
     * @return array{self, string}|null
     */
    public static function enrol(string $typed, TargetMachine $machine, string $address): ?array
    {
        [$number, $words] = EnrolmentCode::parse($typed) ?? [0, ''];
        $one = self::query()->find($number);
        if ($one === null || $one->ended_at !== null || $one->token !== null || $one->expires_at->isPast()) {
            return null;
        }
        if (! hash_equals($one->code, self::hashed($number, $words))) {
            self::query()->whereKey($number)->increment('tries');
            $one->refresh()->tries < self::TRIES || $one->end('a wrong code was tried '.self::TRIES.' times');
            TrailEntry::add("A wrong code was tried for enrolment $number, from $address.", $one->request, null);

            return null;
        }
        $token = bin2hex(random_bytes(32));
        // Of two machines with one code, one gets it.
        $got = self::query()->whereKey($number)->whereNull('token')->whereNull('ended_at')->update([
            'token' => hash('sha256', $token),
            'phrase' => EnrolmentCode::phrase($token),
            'address' => $address,
            'machine' => json_encode($machine->toArray()),
            'enrolled_at' => now(),
            'seen_at' => now(),
        ]);
        if ($got !== 1) {
            return null;
        }
        TrailEntry::add("A machine enrolled itself for {$one->workload->name}, from $address: enrolment $number.", $one->request, null);

        return [$one->refresh(), $token];
    }

    /** The one that holds a token; null if none does, or it is over. */
    public static function holding(string $token): ?self
    {
        return $token === '' ? null : self::query()->where('token', hash('sha256', $token))->whereNull('ended_at')->first();
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

    public function page(): string
    {
        return "/enrolments/{$this->id}";
    }

    /** Heard of it just now; written down every few seconds. */
    public function heard(): void
    {
        if ($this->seen_at === null || $this->seen_at->diffInSeconds(now()) > 2) {
            self::query()->whereKey($this->id)->update(['seen_at' => now()]);
        }
    }

    public function isSilent(): bool
    {
        return $this->seen_at !== null && $this->seen_at->diffInSeconds(now()) > self::SILENT;
    }

    public function end(string $because): void
    {
        $this->update(['ended_at' => now(), 'ended_because' => mb_strcut(mb_scrub($because), 0, 300)]);
    }

    /** In words. */
    public function state(): string
    {
        return match (true) {
            $this->ended_at !== null => 'is over: '.$this->ended_because,
            $this->token === null => $this->expires_at->isPast() ? 'is over: nobody came in time' : 'waits for a machine',
            $this->isSilent() => 'is silent',
            $this->run !== null && ! $this->run->isOver() => "is worked on by run {$this->run_id}",
            default => 'waits for orders',
        };
    }

    private static function hashed(int $number, string $words): string
    {
        return hash('sha256', "$number-$words");
    }
}
