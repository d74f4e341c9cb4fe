<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\Workload;
use App\Sets\Points;
use Carbon\CarbonImmutable;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Objective\Standing;
use stdClass;
use Throwable;

/** How a workload stood when it was looked at last. Jobs look, pages show: a page that looked at every copy would never be quick. */
final readonly class KeptStanding
{
    /** Copies in trouble that are kept of one workload: the newest. */
    private const TROUBLE = 200;

    private function __construct(
        /** Null where it was never looked at, or could not be told. */
        public ?Standing $standing,
        /** Of the newest usable point. */
        public ?CarbonImmutable $newestAt,
        /** Why it could not be told; null if it could. */
        public ?string $failure,
        /** When that was. */
        public ?CarbonImmutable $at,
        /** Something changed since then, and somebody is about to look again. */
        public bool $isBeingReckoned,
        /** Null where nothing expires by rules. */
        public ?KeptExpiry $expiry,
    ) {
    }

    public static function of(Workload $workload): self
    {
        return self::read($workload, DB::table('standings')->where('workload_id', $workload->id)->first());
    }

    /**
     * Of many at a time, without what expires.
     *
     * @param  Collection<int, Workload>  $workloads
     * @return array<int, self> by the ids of all of them
     */
    public static function all(Collection $workloads): array
    {
        $rows = DB::table('standings')
            ->whereIn('workload_id', $workloads->pluck('id'))
            ->get(['workload_id', 'said', 'failure', 'wanted_at', 'reckoned_at'])
            ->keyBy('workload_id');
        $kept = [];
        foreach ($workloads as $workload) {
            $kept[$workload->id] = self::read($workload, $rows[$workload->id] ?? null);
        }

        return $kept;
    }

    /** Looks, and keeps what it saw. It throws nothing: a kind that fails is kept as that. */
    public static function reckon(Workload $workload): void
    {
        $began = now();
        $clock = hrtime(true);
        $row = ['said' => null, 'expiry' => null, 'held' => self::held($workload), 'trouble' => null, 'failure' => null];
        try {
            $points = new Points($workload);
            $row['said'] = self::document(new StandingOf($workload, $points), $began->toImmutable());
            $row['trouble'] = self::trouble($points);
            $expiry = new Expiry($workload);
            $row['expiry'] = $expiry->hasRules() ? KeptExpiry::document($expiry) : null;
        } catch (Throwable $failure) {
            report($failure);
            $row['failure'] = mb_substr(mb_scrub($failure->getMessage()), 0, 500);
        }
        DB::table('standings')->upsert(
            array_map(fn (mixed $one): mixed => is_array($one) ? json_encode($one, JSON_THROW_ON_ERROR) : $one, $row) + [
                'workload_id' => $workload->id,
                'reckoned_at' => $began->format('Y-m-d H:i:s.u'),
                'took_ms' => intdiv(hrtime(true) - $clock, 1_000_000),
            ],
            ['workload_id'],
        );
    }

    /** @return array<string, mixed> */
    private static function document(StandingOf $of, CarbonImmutable $now): array
    {
        $is = $of->standing;

        return [
            'newest_at' => $of->newest?->capturedAt()->format('Y-m-d\TH:i:s.u\Z'),
            'restore_s' => $is->restoreSeconds,
            'last_restore_s' => $is->lastRestoreSeconds,
            'unusable' => $is->unusable,
            'in_doubt' => $is->inDoubt,
            'points' => $is->points,
            'gone' => $is->sourceIsGone,
            'has_source' => $is->hasSource,
            'outside' => $is->isOutside,
            'schedule' => $is->hasSchedule,
            'checked_at' => $is->checkedAgo === null ? null : $now->subSeconds($is->checkedAgo)->format('Y-m-d\TH:i:s\Z'),
            'last_failure' => $is->lastFailure,
        ];
    }

    /** @return array<int, array{int, int, int}> id of a store => copies, bytes, copies found right when read back */
    private static function held(Workload $workload): array
    {
        $held = DB::table('copies')
            ->where('workload_id', $workload->id)
            ->groupBy('store_id')
            ->get(['store_id', DB::raw('COUNT(*) AS n'), DB::raw('SUM(bytes) AS bytes'), DB::raw("SUM(state = 'checked') AS checked")]);

        return $held->keyBy('store_id')->map(fn (stdClass $of): array => [(int) $of->n, (int) $of->bytes, (int) $of->checked])->all();
    }

    /** @return list<array{set: int, name: string, store: int, state: string, because: string|null}> */
    private static function trouble(Points $points): array
    {
        $trouble = [];
        foreach (array_reverse($points->sets) as $set) {
            foreach ($set->copies as $copy) {
                if (! $copy->state->isReadable() && $points->stores->of($copy->store)->silence() === null) {
                    $trouble[] = [
                        'set' => $set->id,
                        'name' => $set->name,
                        'store' => $copy->store->id,
                        'state' => $copy->state->value,
                        'because' => $copy->because,
                    ];
                }
            }
            if (count($trouble) >= self::TROUBLE) {
                break;
            }
        }

        return array_slice($trouble, 0, self::TROUBLE);
    }

    private static function read(Workload $workload, ?stdClass $row): self
    {
        $at = $row?->reckoned_at === null ? null : CarbonImmutable::parse($row->reckoned_at);
        $isWanted = $row === null || ($row->wanted_at !== null && ($row->reckoned_at === null || $row->wanted_at > $row->reckoned_at));
        $said = $row?->said === null ? null : (array) json_decode($row->said, true);
        $newest = ($said['newest_at'] ?? null) === null ? null : CarbonImmutable::parse($said['newest_at']);

        return new self(
            $said === null ? null : self::standing($workload, $said, $newest),
            $newest,
            $row->failure ?? null,
            $at,
            $isWanted,
            ($row->expiry ?? null) === null ? null : KeptExpiry::of((array) json_decode($row->expiry, true)),
        );
    }

    /**
     * Promises and ages are as of now, what was seen is as of then.
     *
     * @param  array<string, mixed>  $said  see document()
     */
    private static function standing(Workload $workload, array $said, ?CarbonImmutable $newest): Standing
    {
        // In plain seconds: an estate has hundreds of these on one page.
        $now = now()->getTimestamp();
        $since = fn (?int $at): ?int => $at === null ? null : max(0, $now - $at);

        return new Standing(
            $since($newest?->getTimestamp()),
            $workload->rpo_s,
            $said['restore_s'],
            $said['last_restore_s'],
            $workload->rto_s,
            $said['unusable'],
            $said['in_doubt'],
            $said['points'],
            $said['gone'],
            $said['has_source'],
            $said['outside'],
            $workload->needs_outside_copy,
            $said['schedule'],
            $since($said['checked_at'] === null ? null : (int) strtotime($said['checked_at'])),
            $said['last_failure'],
        );
    }
}
