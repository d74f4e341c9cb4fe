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
use Illuminate\Http\Request;
use Illuminate\Pagination\LengthAwarePaginator;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\View;
use Kaiseki\Core\Objective\Concern;
use stdClass;

/** What the page of the estate shows: the workloads, how they stand, and what somebody should see to. */
final class EstateView
{
    private const A_PAGE = 50;

    /** Whether promises were kept is shown of so many days. */
    private const DAYS = 14;

    public readonly EstateFilter $filter;

    /** @var LengthAwarePaginator<int, EstateLine> by how much their weightiest concern matters; what could not be told first */
    public readonly LengthAwarePaginator $lines;

    /** @var list<UnprotectedSource> */
    public readonly array $unprotected;

    /** @var array<int, KeptStanding> by workloads' ids: of all that the filter lets through, not of this page alone */
    private readonly array $kept;

    public function __construct(public readonly User $viewer, Request $http)
    {
        $this->filter = new EstateFilter($http);
        $this->kept = KeptStanding::all($this->filter->workloads($viewer));
        $this->unprotected = array_values(
            array_filter(NewSources::kept(), fn (UnprotectedSource $one): bool => $viewer->sees($one->group)),
        );
        $concerns = array_map(fn (KeptStanding $kept): ?array => $kept->standing?->concerns(), $this->kept);
        if ($this->filter->isConcerning) {
            $concerns = array_filter($concerns, fn (?array $of): bool => $of !== []);
        }
        uasort($concerns, fn (?array $a, ?array $b): int => EstateLine::weightOf($b) <=> EstateLine::weightOf($a));
        $page = LengthAwarePaginator::resolveCurrentPage();
        $this->lines = new LengthAwarePaginator(
            $this->lines(array_slice($concerns, ($page - 1) * self::A_PAGE, self::A_PAGE, true)),
            count($concerns),
            self::A_PAGE,
            $page,
            ['path' => '/estate'],
        );
        $this->lines->withQueryString();
    }

    /**
     * @param  array<int, list<Concern>|null>  $concerns  by workloads' ids, in the order of the page
     * @return list<EstateLine>
     */
    private function lines(array $concerns): array
    {
        $ids = array_keys($concerns);
        $workloads = Workload::query()->findMany($ids)->keyBy('id');
        $proven = $this->proven($ids);
        $open = $this->open($ids);
        $days = DB::table('objective_days')
            ->whereIn('workload_id', $ids)
            ->where('day', '>=', now()->subDays(self::DAYS - 1)->format('Y-m-d'))
            ->orderBy('day')
            ->get(['workload_id', 'met'])
            ->groupBy('workload_id');

        return array_map(fn (int $id): EstateLine => new EstateLine(
            $workloads[$id],
            $this->kept[$id],
            $concerns[$id] ?? [],
            (int) ($open[$id] ?? 0),
            isset($proven[$id]) ? CarbonImmutable::parse($proven[$id]) : null,
            array_values(($days[$id] ?? collect())->map(fn (stdClass $day): bool => (bool) $day->met)->all()),
        ), $ids);
    }

    /**
     * @param  list<int>  $ids  of workloads
     * @return Collection<int, string> when a run of each was proven last, by its id
     */
    private function proven(array $ids): Collection
    {
        return Run::query()
            ->whereIn('workload_id', $ids)
            ->where('state', 'done')
            ->where('outcome->right', true)
            ->groupBy('workload_id')
            ->selectRaw('workload_id, MAX(ended_at) AS at')
            ->pluck('at', 'workload_id');
    }

    /**
     * @param  list<int>  $ids  of workloads
     * @return Collection<int, int> requests of each that are not closed, by its id
     */
    private function open(array $ids): Collection
    {
        return RecoveryRequest::query()
            ->whereIn('workload_id', $ids)
            ->where('state', '<>', 'closed')
            ->groupBy('workload_id')
            ->selectRaw('workload_id, COUNT(*) AS n')
            ->pluck('n', 'workload_id');
    }

    /** @return list<string> views of the kinds that have something to show beside the workloads */
    public function partsOfKinds(): array
    {
        $views = array_map(fn (Kind $kind): string => $kind->view('estate'), array_values(Kinds::all()));

        return array_values(array_filter($views, View::exists(...)));
    }

    /** @return list<string> names of kinds */
    public function kinds(): array
    {
        return array_map(strval(...), array_keys(Kinds::all()));
    }

    /** Nobody protects anything yet that this person sees. */
    public function isEmpty(): bool
    {
        return $this->kept === [] && $this->filter->isNone() && $this->unprotected === [];
    }

    /** When the one that was looked at longest ago was looked at; null where one never was. */
    public function lookedAt(): ?CarbonImmutable
    {
        return KeptStanding::longestAgo(array_values($this->kept));
    }

    public function isBeingReckoned(): bool
    {
        return array_filter($this->kept, fn (KeptStanding $kept): bool => $kept->isBeingReckoned) !== [];
    }

    public function canTakeUp(): bool
    {
        return $this->viewer->role === Role::Operator;
    }
}
