<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\Workload;
use App\Sets\Points;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Query\Builder as QueryBuilder;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Objective\Standing;
use stdClass;
use Throwable;

/** How a workload stood when it was looked at last. Jobs look, pages show: a page that looked at every copy would never be quick. */
final readonly class KeptStanding
{
    /** Copies in trouble that are kept of one workload: the newest. */
    private const TROUBLE = 200;

    /** What is read of each workload: hundreds at a time, so not by its model. */
    private const COLUMNS = [
        'workloads.id', 'name', 'rpo_s', 'rto_s', 'needs_outside_copy', 'said', 'failure', 'wanted_at', 'reckoned_at',
    ];

    private function __construct(
        /** The workload's name. */
        public string $name,
        /** Null where it was never looked at, or could not be told. */
        public ?Standing $standing,
        /** Of the newest usable point, as it is written: a page has hundreds of these, and shows few of their moments. */
        private ?string $newestAt,
        /** Why it could not be told; null if it could. */
        public ?string $failure,
        /** When that was, as it is written. */
        private ?string $at,
        /** Something changed since then, and somebody is about to look again. */
        public bool $isBeingReckoned,
        /** Null where nothing expires by rules. */
        public ?KeptExpiry $expiry,
    ) {
    }

    /** Of the newest usable point; null where none is. */
    public function newestAt(): ?CarbonImmutable
    {
        return $this->newestAt === null ? null : CarbonImmutable::parse($this->newestAt);
    }

    /** When it was looked at last; null if it never was. */
    public function at(): ?CarbonImmutable
    {
        return $this->at === null ? null : CarbonImmutable::parse($this->at);
    }

    /**
     * When the one that was looked at longest ago was looked at; null where one never was.
     *
     * @param  list<self>  $kept
     */
    public static function longestAgo(array $kept): ?CarbonImmutable
    {
        $moments = array_column($kept, 'at'); // as written they sort as they are

        return $moments === [] || in_array(null, $moments, true) ? null : CarbonImmutable::parse(min($moments));
    }

    public static function of(Workload $workload): self
    {
        $row = self::query(Workload::query()->whereKey($workload->id))->first([...self::COLUMNS, 'expiry']);
        assert($row instanceof stdClass);

        return self::read($row);
    }

    /**
     * Of many at a time, without what expires.
     *
     * @param  Builder<Workload>  $workloads
     * @return array<int, self> by the ids of all of them, in the order of their names
     */
    public static function all(Builder $workloads): array
    {
        $kept = [];
        foreach (self::query($workloads)->orderBy('name')->get(self::COLUMNS) as $row) {
            assert($row instanceof stdClass);
            $kept[(int) $row->id] = self::read($row);
        }

        return $kept;
    }

    /** @param  Builder<Workload>  $workloads */
    private static function query(Builder $workloads): QueryBuilder
    {
        return $workloads->toBase()->leftJoin('standings', 'standings.workload_id', '=', 'workloads.id');
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

    /** @return array<string, mixed> moments in UTC without saying so: PHP takes ten times as long to read one that names its zone */
    private static function document(StandingOf $of, CarbonImmutable $now): array
    {
        $is = $of->standing;

        return [
            'newest_at' => $of->newest?->capturedAt()->format('Y-m-d H:i:s.u'),
            'restore_s' => $is->restoreSeconds,
            'last_restore_s' => $is->lastRestoreSeconds,
            'unusable' => $is->unusable,
            'in_doubt' => $is->inDoubt,
            'points' => $is->points,
            'gone' => $is->sourceIsGone,
            'has_source' => $is->hasSource,
            'outside' => $is->isOutside,
            'schedule' => $is->hasSchedule,
            'checked_at' => $is->checkedAgo === null ? null : $now->subSeconds($is->checkedAgo)->format('Y-m-d H:i:s'),
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

    private static function read(stdClass $row): self
    {
        $isWanted = $row->reckoned_at === null || ($row->wanted_at !== null && $row->wanted_at > $row->reckoned_at);
        $said = $row->said === null ? null : (array) json_decode($row->said, true);

        return new self(
            $row->name,
            $said === null ? null : self::standing($row, $said),
            $said['newest_at'] ?? null,
            $row->failure,
            $row->reckoned_at,
            $isWanted,
            ($row->expiry ?? null) === null ? null : KeptExpiry::of((array) json_decode($row->expiry, true)),
        );
    }

    /**
     * Promises and ages are as of now, what was seen is as of then.
     *
     * @param  array<string, mixed>  $said  see document()
     */
    private static function standing(stdClass $row, array $said): Standing
    {
        // In plain seconds: an estate has hundreds of these on one page.
        $now = now()->getTimestamp();
        $since = fn (?string $at): ?int => $at === null ? null : max(0, $now - (int) strtotime($at));

        return new Standing(
            $since($said['newest_at']),
            $row->rpo_s,
            $said['restore_s'],
            $said['last_restore_s'],
            $row->rto_s,
            $said['unusable'],
            $said['in_doubt'],
            $said['points'],
            $said['gone'],
            $said['has_source'],
            $said['outside'],
            (bool) $row->needs_outside_copy,
            $said['schedule'],
            $since($said['checked_at']),
            $said['last_failure'],
        );
    }
}
