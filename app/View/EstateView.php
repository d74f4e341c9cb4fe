<?php

declare(strict_types=1);

namespace App\View;

use App\Care\KeptStanding;
use App\Care\NewSources;
use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\View;
use Kaiseki\Core\Objective\Concern;

/** What the page of the estate shows: all workloads, how they stand, and what somebody should see to. */
final class EstateView
{
    /**
     * @var list<array{workload: Workload, kept: KeptStanding, concerns: list<Concern>, open: int, proven: string|null,
     *     days: list<bool>}> by how much their weightiest concern matters; what could not be told first
     */
    public readonly array $lines;

    /** @return list<string> views of the kinds that have something to show beside the workloads */
    public function partsOfKinds(): array
    {
        $views = array_map(fn (Kind $kind): string => $kind->view('estate'), array_values(Kinds::all()));

        return array_values(array_filter($views, View::exists(...)));
    }

    /** @param  list<bool>  $days  oldest first: whether the promises were kept */
    public static function daysInWords(array $days): string
    {
        return 'Of the last '.count($days).' days on record the promises were kept on '.count(array_filter($days));
    }

    public function __construct(public readonly User $viewer)
    {
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
        $workloads = Workload::seenBy($viewer)->orderBy('name')->get();
        $kept = KeptStanding::all($workloads);
        foreach ($workloads as $workload) {
            $lines[] = [
                'workload' => $workload,
                'kept' => $kept[$workload->id],
                'concerns' => $kept[$workload->id]->standing?->concerns() ?? [],
                'open' => (int) ($open[$workload->id] ?? 0),
                'proven' => $proven[$workload->id] ?? null,
                'days' => array_values(($days[$workload->id] ?? collect())->map(fn (object $day): bool => (bool) $day->met)->all()),
            ];
        }
        $weight = fn (array $line): int => $line['kept']->standing === null ? 100 : $line['concerns'][0]->weight ?? 0;
        usort($lines, fn (array $a, array $b): int => $weight($b) <=> $weight($a));
        $this->lines = $lines;
    }

    /** When the one that was looked at longest ago was looked at; null where one never was. */
    public function lookedAt(): ?CarbonImmutable
    {
        $moments = array_map(fn (array $line): ?CarbonImmutable => $line['kept']->at, $this->lines);

        return $moments === [] || in_array(null, $moments, true) ? null : min($moments);
    }

    public function isBeingReckoned(): bool
    {
        return array_filter($this->lines, fn (array $line): bool => $line['kept']->isBeingReckoned) !== [];
    }

    /**
     * @return list<array{name: string, group: string, source: string, kind: string, workload: array<string, mixed>, rule: bool}>
     *     originals that nothing protects
     */
    public function unprotected(): array
    {
        return array_values(array_filter(NewSources::kept(), fn (array $source): bool => $this->viewer->sees($source['group'])));
    }

    public function canTakeUp(): bool
    {
        return $this->viewer->role === Role::Operator;
    }
}
