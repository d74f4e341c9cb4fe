<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\KindIsMissing;
use App\Kinds\Kinds;
use App\Kinds\SourcePlace;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use Carbon\CarbonImmutable;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;

/** What the page of one workload shows. */
final class WorkloadView
{
    public readonly Points $points;

    public readonly ChainChart $chart;

    public readonly string $zone;

    /** The newest point that is usable by the ordinary demands. */
    public readonly ?SetOutline $newest;

    public function __construct(public readonly Workload $workload, private readonly User $user, Request $http)
    {
        $this->zone = $user->zone;
        $this->points = new Points($workload);
        $found = $this->points->find(Instant::of(now()), new Demands)->set;
        $this->newest = $found === null ? null : $this->points->set($found->id);
        $this->chart = new ChainChart(
            $this->points,
            $this->newest,
            CarbonImmutable::now(),
            ChartWindow::of($http, 42),
            $this->zone,
            Run::provenOf($workload),
        );
    }

    /** That its kind is not installed; null if it is. */
    public function missing(): ?string
    {
        return Kinds::isInstalled($this->workload->kind) ? null : KindIsMissing::words($this->workload->kind);
    }

    public function url(): string
    {
        return "/workloads/{$this->workload->id}?show=chart";
    }

    public function sourceIsGone(): bool
    {
        return Kinds::of($this->workload)->source($this->workload)->isGone();
    }

    /** Where its original is, as its source tells it. */
    public function original(): ?SourcePlace
    {
        return Kinds::of($this->workload)->source($this->workload)->place();
    }

    /** @return list<StoredThere> what lies where */
    public function stores(): array
    {
        $stores = [];
        foreach ($this->points->sets as $set) {
            foreach ($set->copies as $copy) {
                $name = $copy->store->name;
                $there = $stores[$name] ??= new StoredThere($name, $copy->store->site);
                $there->copies++;
                $there->readable += $copy->state->isReadable() ? 1 : 0;
                $there->bytes += $copy->bytes;
            }
        }
        ksort($stores);

        return array_values($stores);
    }

    /** @return list<HistoryLine> */
    public function histories(): array
    {
        $histories = [];
        foreach ($this->points->sets as $set) {
            $line = $histories[$set->history] ??= new HistoryLine($this->points->historyName($set), $set, $set);
            $line->sets++;
            $line->last = $set;
        }

        return array_values($histories);
    }

    /** @return Collection<int, RecoveryRequest> */
    public function requests(): Collection
    {
        return RecoveryRequest::seenBy($this->user)
            ->with('requester')
            ->where('workload_id', $this->workload->id)
            ->where('state', '<>', 'closed')
            ->orderBy('due_at')
            ->get();
    }

    /** @return Collection<int, Run> */
    public function runs(): Collection
    {
        return Run::query()->with('user')->where('workload_id', $this->workload->id)->latest('id')->limit(20)->get();
    }
}
