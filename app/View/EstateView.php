<?php

declare(strict_types=1);

namespace App\View;

use App\Care\KeptStanding;
use App\Care\NewSources;
use App\Care\UnprotectedSource;
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

/** What the page of the estate shows: all workloads, how they stand, and what somebody should see to. */
final class EstateView
{
    /** @var list<EstateLine> by how much their weightiest concern matters; what could not be told first */
    public readonly array $lines;

    /** @return list<string> views of the kinds that have something to show beside the workloads */
    public function partsOfKinds(): array
    {
        $views = array_map(fn (Kind $kind): string => $kind->view('estate'), array_values(Kinds::all()));

        return array_values(array_filter($views, View::exists(...)));
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
            $lines[] = new EstateLine(
                $workload,
                $kept[$workload->id],
                $kept[$workload->id]->standing?->concerns() ?? [],
                (int) ($open[$workload->id] ?? 0),
                isset($proven[$workload->id]) ? CarbonImmutable::parse($proven[$workload->id]) : null,
                array_values(($days[$workload->id] ?? collect())->map(fn (object $day): bool => (bool) $day->met)->all()),
            );
        }
        usort($lines, fn (EstateLine $a, EstateLine $b): int => $b->weight() <=> $a->weight());
        $this->lines = $lines;
    }

    /** When the one that was looked at longest ago was looked at; null where one never was. */
    public function lookedAt(): ?CarbonImmutable
    {
        $moments = array_map(fn (EstateLine $line): ?CarbonImmutable => $line->kept->at, $this->lines);

        return $moments === [] || in_array(null, $moments, true) ? null : min($moments);
    }

    public function isBeingReckoned(): bool
    {
        return array_filter($this->lines, fn (EstateLine $line): bool => $line->kept->isBeingReckoned) !== [];
    }

    /** @return list<UnprotectedSource> */
    public function unprotected(): array
    {
        return array_values(array_filter(NewSources::kept(), fn (UnprotectedSource $one): bool => $this->viewer->sees($one->group)));
    }

    public function canTakeUp(): bool
    {
        return $this->viewer->role === Role::Operator;
    }
}
