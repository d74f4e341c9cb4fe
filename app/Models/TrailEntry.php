<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int|null $request_id
 * @property int|null $run_id
 * @property int|null $workload_id
 * @property string $what
 * @property CarbonImmutable $at
 * @property TrailSort $sort
 * @property string|null $actor
 * @property string|null $way page, terminal or job
 * @property string|null $address
 * @property string $result done, refused or failed
 * @property-read User|null $user
 */
final class TrailEntry extends Model
{
    public const RESULTS = ['done', 'refused', 'failed'];

    public const WAYS = ['page', 'terminal', 'job'];

    /** Bound in the container while a job is at work. */
    public const JOB = 'kaiseki.job';

    protected $table = 'trail';

    protected $guarded = [];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    public $timestamps = false;

    protected function casts(): array
    {
        return ['at' => 'immutable_datetime', 'sort' => TrailSort::class];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /**
     * @param  string  $what  as a sentence
     * @param  string  $result  one of RESULTS
     * @param  string|null  $as  who it was, where that is no person who signs in
     */
    public static function add(
        string $what,
        ?RecoveryRequest $request,
        ?User $user,
        ?Run $run = null,
        TrailSort $sort = TrailSort::Work,
        ?Workload $workload = null,
        string $result = 'done',
        ?string $as = null,
    ): void {
        $way = self::way();
        self::query()->create([
            'what' => mb_substr(mb_scrub($what), 0, 1000),
            'at' => now(),
            'request_id' => $request?->id,
            'user_id' => $user?->id,
            'run_id' => $run?->id,
            'workload_id' => $workload->id ?? $run->workload_id ?? $request?->workload_id,
            'sort' => $sort,
            'actor' => mb_substr($as ?? self::actor($user, $way), 0, 200),
            'way' => $way,
            'address' => $way === 'page' ? request()->ip() : null,
            'result' => $result,
        ]);
    }

    private static function way(): string
    {
        return match (true) {
            app()->bound(self::JOB) => 'job',
            request()->route() !== null => 'page',
            default => 'terminal',
        };
    }

    private static function actor(?User $user, string $way): string
    {
        return match (true) {
            $user !== null => $user->email,
            $way === 'job' => 'the desk',
            // Behind walls root types, and the application's account does it.
            $way === 'terminal' => 'account '.(getenv('KAISEKI_TYPED_BY') ?: posix_getpwuid(posix_geteuid())['name'] ?? posix_geteuid()),
            default => 'nobody',
        };
    }

    /**
     * Those that an auditor may read: of workloads that they see; of no workload, what was done to people and rules, and signing in.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        $query = self::query();

        return ! $user->isLimited()
            ? $query
            : $query->where(
                fn (Builder $query) => $query
                    ->whereIn('workload_id', Workload::seenBy($user)->select('id'))
                    ->orWhere(
                        fn (Builder $query) => $query
                            ->whereNull('workload_id')
                            ->whereIn('sort', [TrailSort::SignIn, TrailSort::Account, TrailSort::Rule]),
                    ),
            );
    }

    /**
     * Of a request, what is about workloads that the person sees, the newest first.
     *
     * @return Collection<int, self>
     */
    public static function of(RecoveryRequest $request, User $user): Collection
    {
        return self::query()
            ->with('user')
            ->where('request_id', $request->id)
            ->where(
                fn (Builder $query) => $query
                    ->whereNull('workload_id')
                    ->orWhereIn('workload_id', Workload::seenBy($user)->select('id')),
            )
            ->latest('id')
            ->limit(20)
            ->get();
    }
}
