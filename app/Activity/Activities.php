<?php

declare(strict_types=1);

namespace App\Activity;

use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Query\Builder;
use Illuminate\Database\Query\JoinClause;
use Illuminate\Pagination\LengthAwarePaginator;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What was done to the estate, gathered from where each sort of it is kept. What is read back by plan is one thing for each workload and
 * night, and so is all that one plan of expiry deletes.
 */
final class Activities
{
    private const A_PAGE = 50;

    /** Microseconds in a second, to make seconds of two times. */
    private const SPAN = 'TIMESTAMPDIFF(MICROSECOND, %s, %s) / 1000000';

    public function __construct(private readonly User $user, private readonly ActivityFilter $filter)
    {
    }

    /**
     * @param  int|null  $total  how many fit, where that is known
     * @return LengthAwarePaginator<int, ActivityLine> the newest first
     */
    public function page(?int $total = null): LengthAwarePaginator
    {
        return $this->filtered()
            ->orderByDesc('at')
            ->orderByDesc('id')
            ->paginate(self::A_PAGE, total: $total)
            ->withQueryString()
            ->through(ActivityLine::of(...));
    }

    /** @return Collection<int, stdClass> sort, count, bytes, seconds, unwell: of all that fits, by sort */
    public function sums(): Collection
    {
        return DB::query()
            ->fromSub($this->filtered(), 'all_of_it')
            ->groupBy('sort')
            ->selectRaw('sort, COUNT(*) AS count, SUM(bytes) AS bytes, SUM(seconds) AS seconds')
            ->selectRaw("SUM(result IN ('failed', 'part')) AS unwell")
            ->get();
    }

    /** One of them, whoever may see it; null if there is none. */
    public static function find(ActivitySort $sort, int $id): ?ActivityLine
    {
        [$all, $table, $began] = self::source($sort);
        $at = DB::table($table)->where('id', $id)->value($began);
        if ($at === null) {
            return null;
        }
        $day = CarbonImmutable::parse($at, 'UTC')->startOfDay();
        $row = self::named($all->where($began, '>=', $day)->where($began, '<', $day->addDay()))->where('activity.id', $id)->first();

        return $row === null ? null : ActivityLine::of($row);
    }

    private function filtered(): Builder
    {
        $sorts = $this->filter->sort === null ? ActivitySort::cases() : [$this->filter->sort];
        $span = [$this->filter->from->utc()->format('Y-m-d H:i:s'), $this->filter->until()->utc()->format('Y-m-d H:i:s')];
        $all = $this->part($sorts[0], $span);
        foreach (array_slice($sorts, 1) as $sort) {
            $all->unionAll($this->part($sort, $span));
        }
        $filter = $this->filter;

        return self::named($all)
            ->when($filter->result !== null, fn (Builder $query) => $query->where('result', $filter->result?->value))
            ->when($filter->kind !== '', fn (Builder $query) => $query->where('workloads.kind', $filter->kind))
            ->when($filter->person === ActivityFilter::NOBODY, fn (Builder $query) => $query->whereNull('user_id'))
            ->when(
                $filter->person !== '' && $filter->person !== ActivityFilter::NOBODY,
                fn (Builder $query) => $query->where('user_id', (int) $filter->person),
            );
    }

    private static function named(Builder $all): Builder
    {
        return DB::query()
            ->fromSub($all, 'activity')
            ->join('workloads', 'workloads.id', '=', 'activity.workload_id')
            ->leftJoin('users', 'users.id', '=', 'activity.user_id')
            ->select('activity.*', 'workloads.name AS workload_name', 'users.name AS person');
    }

    /** @param  array{string, string}  $span  begin and end */
    private function part(ActivitySort $sort, array $span): Builder
    {
        [$part, $table, $began] = self::source($sort);

        return $part
            ->whereIn("$table.workload_id", Workload::seenBy($this->user)->select('id'))
            ->when($this->filter->workload !== null, fn (Builder $query) => $query->where("$table.workload_id", $this->filter->workload))
            ->where($began, '>=', $span[0])
            ->where($began, '<', $span[1]);
    }

    /** @return array{Builder, string, string} where a sort of it is kept, the table, and its column of when it began */
    private static function source(ActivitySort $sort): array
    {
        return match ($sort) {
            ActivitySort::Made => [self::made(), 'makings', 'makings.created_at'],
            ActivitySort::Restored => [self::restored(), 'runs', 'runs.created_at'],
            ActivitySort::Checked => [self::checked(), 'checks', 'checks.at'],
            ActivitySort::Mended => [self::mended(), 'checks', 'checks.at'],
            ActivitySort::Expired => [self::expired(), 'expiries', 'expiries.planned_at'],
        };
    }

    private static function made(): Builder
    {
        return DB::table('makings')
            ->leftJoin('sets', fn (JoinClause $join) => $join
                ->on('sets.workload_id', '=', 'makings.workload_id')
                ->on('sets.name', '=', 'makings.set_name'))
            ->select('makings.id', 'makings.workload_id', 'makings.user_id', 'makings.created_at AS at')
            ->selectRaw(sprintf(self::SPAN, 'makings.started_at', 'makings.ended_at').' AS seconds')
            ->selectRaw('COALESCE(sets.bytes, 0) AS bytes, makings.entries AS things, COALESCE(makings.set_name, makings.level) AS about')
            ->selectRaw("CASE makings.state WHEN 'done' THEN 'right' WHEN 'queued' THEN 'going' WHEN 'running' THEN 'going'
                ELSE 'failed' END AS result")
            ->selectRaw("'made' AS sort");
    }

    private static function restored(): Builder
    {
        return DB::table('runs')
            ->select('id', 'workload_id', 'user_id', 'created_at AS at')
            ->selectRaw(sprintf(self::SPAN, 'started_at', 'ended_at').' AS seconds')
            ->selectRaw("COALESCE(JSON_VALUE(outcome, '$.bytes'), bytes_done) AS bytes")
            ->selectRaw("COALESCE(JSON_VALUE(outcome, '$.files'), files_done) AS things")
            ->selectRaw("CONCAT(IF(put_back_at IS NULL, '', 'put back since: '), COALESCE(set_name, '')) AS about")
            ->selectRaw("CASE WHEN state = 'done' THEN IF(JSON_VALUE(outcome, '$.right') = '1', 'right', 'part')
                WHEN state IN ('failed', 'stopped') THEN 'failed' ELSE 'going' END AS result")
            ->selectRaw("'restored' AS sort");
    }

    /** What was asked for is one thing each; what is read by plan is one for a workload and a day. */
    private static function checked(): Builder
    {
        return DB::table('checks')
            ->where('result', '<>', 'mended')
            ->groupByRaw('workload_id, user_id, IF(planned, DATE(at), id)')
            ->selectRaw('MIN(id) AS id, workload_id, user_id, MIN(at) AS at, SUM(seconds) AS seconds, SUM(bytes) AS bytes')
            ->selectRaw("COUNT(*) AS things, IF(COUNT(*) = 1, CONCAT(MIN(set_name), ' on ', MIN(store_name)), 'by plan') AS about")
            ->selectRaw("CASE WHEN SUM(result IN ('damaged', 'missing')) > 0 THEN 'failed' WHEN SUM(result = 'silent') > 0 THEN 'part'
                ELSE 'right' END AS result")
            ->selectRaw("'checked' AS sort");
    }

    private static function mended(): Builder
    {
        return DB::table('checks')
            ->where('result', 'mended')
            ->select('id', 'workload_id', 'user_id', 'at', 'seconds', 'bytes')
            ->selectRaw("1 AS things, CONCAT(set_name, ' on ', store_name) AS about, 'right' AS result, 'mended' AS sort");
    }

    private static function expired(): Builder
    {
        return DB::table('expiries')
            ->groupBy('workload_id', 'user_id', 'planned_at')
            ->selectRaw('MIN(id) AS id, workload_id, user_id, planned_at AS at')
            ->selectRaw(sprintf(self::SPAN, 'planned_at', 'MAX(done_at)').' AS seconds')
            ->selectRaw('SUM(IF(done_at IS NULL, 0, bytes)) AS bytes, COUNT(*) AS things')
            ->selectRaw("CONCAT(COUNT(DISTINCT set_name), IF(COUNT(DISTINCT set_name) = 1, ' set', ' sets')) AS about")
            ->selectRaw("CASE WHEN SUM(done_at IS NULL) = 0 THEN 'right' WHEN SUM(failure IS NOT NULL) > 0 THEN 'failed'
                ELSE 'going' END AS result")
            ->selectRaw("'expired' AS sort");
    }
}
