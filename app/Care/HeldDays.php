<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** How much lies on the stores, day by day: written down once a day, and read for the pages. */
final class HeldDays
{
    /** Days that are kept. */
    private const KEPT = 800;

    /** Writes down how much lies there now, as of today; again on the same day takes the place of what was written. */
    public static function record(): void
    {
        DB::transaction(function (): void {
            $today = now()->utc()->format('Y-m-d');
            DB::table('held_days')->where('day', $today)->delete();
            DB::table('held_days')->where('day', '<', now()->utc()->subDays(self::KEPT)->format('Y-m-d'))->delete();
            DB::table('held_days')->insertUsing(
                ['day', 'store_id', 'workload_id', 'copies', 'bytes'],
                DB::table('copies')
                    ->groupBy('store_id', 'workload_id')
                    ->selectRaw('?, store_id, workload_id, COUNT(*), SUM(bytes)', [$today]),
            );
        });
    }

    /**
     * Of what the person may see, the days summed by stores or by workloads; a day on which nobody looked is left out.
     *
     * @param  'store_id'|'workload_id'  $by
     * @param  list<int>|null  $only  ids of stores or workloads; null for all
     * @return array<int, array<string, int>> id => day, such as 2026-11-28 => bytes, the oldest first
     */
    public static function of(User $user, string $by, int $days, ?array $only = null): array
    {
        $rows = DB::table('held_days')
            ->where('day', '>=', CarbonImmutable::now('UTC')->subDays($days)->format('Y-m-d'))
            ->when($user->isLimited(), fn (Builder $query) => $query->whereIn('workload_id', Workload::seenBy($user)->select('id')))
            ->when($only !== null, fn (Builder $query) => $query->whereIn($by, $only ?? []))
            ->groupBy($by, 'day')
            ->orderBy('day')
            ->get([$by.' AS id', 'day', DB::raw('SUM(bytes) AS bytes')]);
        $of = [];
        foreach ($rows as $row) {
            $of[(int) $row->id][(string) $row->day] = (int) $row->bytes;
        }

        return $of;
    }
}
