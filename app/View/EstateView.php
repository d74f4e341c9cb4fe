<?php

declare(strict_types=1);

namespace App\View;

use App\Care\NewSources;
use App\Care\StandingOf;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Stores\OpenStores;
use Illuminate\Support\Facades\DB;
use Throwable;

/** What the page of the estate shows: all workloads, how they stand, and what somebody should see to. */
final class EstateView
{
    /**
     * @var list<array{workload: Workload, of: StandingOf|null, failure: string|null, open: int, proven: string|null, days: list<bool>}>
     *     by how much their weightiest concern matters; of one whose kind fails only that
     */
    public readonly array $lines;

    /** @param  list<bool>  $days  oldest first: whether the promises were kept */
    public static function daysInWords(array $days): string
    {
        return 'Of the last '.count($days).' days on record the promises were kept on '.count(array_filter($days));
    }

    public function __construct(private readonly User $user)
    {
        $stores = new OpenStores;
        $proven = Run::query()
            ->where('state', 'done')
            ->where('outcome->right', true)
            ->groupBy('workload_id')
            ->selectRaw('workload_id, MAX(ended_at) AS at')
            ->pluck('at', 'workload_id');
        $open = RecoveryRequest::query()
            ->where('state', '<>', 'closed')
            ->whereNotNull('workload_id')
            ->groupBy('workload_id')
            ->selectRaw('workload_id, COUNT(*) AS n')
            ->pluck('n', 'workload_id');
        $days = DB::table('objective_days')
            ->where('day', '>=', now()->subDays(13)->format('Y-m-d'))
            ->orderBy('day')
            ->get(['workload_id', 'met'])
            ->groupBy('workload_id');
        $lines = [];
        foreach (Workload::seenBy($user)->orderBy('name')->get() as $workload) {
            [$of, $failure] = self::standing($workload, $stores);
            $lines[] = [
                'workload' => $workload,
                'of' => $of,
                'failure' => $failure,
                'open' => (int) ($open[$workload->id] ?? 0),
                'proven' => $proven[$workload->id] ?? null,
                'days' => array_values(($days[$workload->id] ?? collect())->map(fn (object $day): bool => (bool) $day->met)->all()),
            ];
        }
        $weight = fn (array $line): int => $line['of'] === null ? 100 : $line['of']->standing->concerns()[0]->weight ?? 0;
        usort($lines, fn (array $a, array $b): int => $weight($b) <=> $weight($a));
        $this->lines = $lines;
    }

    /** @return array{StandingOf, null}|array{null, string} */
    private static function standing(Workload $workload, OpenStores $stores): array
    {
        try {
            return [new StandingOf($workload, new Points($workload, $stores)), null];
        } catch (Throwable $failure) {
            report($failure);

            return [null, mb_scrub($failure->getMessage())];
        }
    }

    /**
     * @return list<array{name: string, group: string, source: string, kind: string, workload: array<string, mixed>, rule: bool}>
     *     originals that nothing protects
     */
    public function unprotected(): array
    {
        return array_values(array_filter((new NewSources)->found(), fn (array $source): bool => $this->user->sees($source['group'])));
    }

    public function canTakeUp(): bool
    {
        return $this->user->role === Role::Operator;
    }
}
