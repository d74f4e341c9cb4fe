<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\Check;
use App\Models\Making;
use App\Models\Run;
use App\Models\Schedule;
use App\Models\Workload;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Database\WayEstimate;
use Kaiseki\Core\Estimate\RestoreEstimate;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Objective\Standing;

/** How a workload stands now against what was promised for it. */
final readonly class StandingOf
{
    public Standing $standing;

    /** The newest point that is usable by the ordinary demands. */
    public ?SetOutline $newest;

    public function __construct(public Workload $workload, public Points $points)
    {
        $now = now();
        $found = $points->find(Instant::of($now), new Demands)->set;
        $this->newest = $found === null ? null : $points->set($found->id);
        $lost = $points->lost->counts();
        $inDoubt = array_filter($points->sets, fn (SetOutline $set): bool => $set->set->inDoubt);
        $making = Making::query()->where('workload_id', $workload->id)->whereIn('state', ['done', 'failed', 'missed'])->latest('id')->first();
        $checked = $this->newest === null ? null : Check::query()->whereIn('copy_id', array_map(fn (CopyOutline $copy): int => $copy->id, $this->newest->copies))->where('result', 'right')->max('at');
        $this->standing = new Standing(
            $this->newest === null ? null : (int) max(0, $this->newest->capturedAt()->diffInSeconds($now)), $workload->rpo_s,
            $this->estimate(), self::lastWholeRestore($workload), $workload->rto_s, count($lost), count($inDoubt), count($points->sets),
            $workload->source !== null && ! is_dir($workload->source), $workload->source !== null, $this->isOutside(), $workload->needs_outside_copy,
            Schedule::query()->where('workload_id', $workload->id)->where('on', true)->exists(), $checked === null ? null : (int) (new CarbonImmutable($checked))->diffInSeconds($now),
            $making === null || $making->state === 'done' ? null : (string) $making->failure,
        );
    }

    /** Writes down how all workloads stand today. */
    public static function recordAll(): void
    {
        foreach (Workload::query()->get() as $workload) {
            $standing = (new self($workload, new Points($workload)))->standing;
            DB::table('objective_days')->upsert([
                'workload_id' => $workload->id, 'day' => now()->utc()->format('Y-m-d'), 'age_s' => $standing->ageSeconds, 'restore_s' => $standing->restoreSeconds === null ? null : (int) $standing->restoreSeconds,
                'unusable' => $standing->unusable, 'met' => $standing->isMet(),
            ], ['workload_id', 'day'], ['age_s', 'restore_s', 'unusable', 'met']);
        }
    }

    /** The dump loaded, the logs rolled forward, and what came of it brought to its place. */
    private function databaseEstimate(SetOutline $newest): float
    {
        $sums = DB::table('sets')->whereIn('id', array_map(fn (SetOutline $set): int => $set->id, $this->points->chain($newest->name)))
            ->selectRaw("COALESCE(SUM(tree_bytes), 0) AS dump, COALESCE(SUM(IF(level = 'log', entries, 0)), 0) AS transactions, COALESCE(SUM(IF(level = 'log', JSON_VALUE(`database`, '$.wholeUntil'), 0)), 0) AS logs")->first();

        return WayEstimate::whole((int) $sums->dump, (int) $sums->dump, (int) $sums->logs, (int) $sums->transactions, false)->whole->likely;
    }

    /** By sets: quick enough for a page of all workloads. */
    private function estimate(): ?float
    {
        if ($this->newest === null) {
            return null;
        }
        if ($this->workload->kind === 'database') {
            return $this->databaseEstimate($this->newest);
        }
        $rates = $this->points->rates();
        $pieces = [];
        foreach ($this->pieces($this->newest) as $set) {
            $pieces[] = [$set, $set->bytes];
        }
        $list = CopyChooser::choose(array_values(array_filter($pieces, fn (array $piece): bool => $piece[0]->readableCopies() !== [])), $this->points->route(null), new CopyRule);
        $model = $this->points->model($this->newest);

        return $list === null ? null : RestoreEstimate::of($list, $model->tree_files, $model->tree_bytes, $rates->costs($this->points->stores->all()->all(), $this->workload->site))->whole->likely;
    }

    /** @return list<ChainSet> what the point is made of, as far as its chain is known */
    private function pieces(SetOutline $point): array
    {
        return array_map(fn (SetOutline $set): ChainSet => $set->set, $this->points->chain($point->name) ?: [$point]);
    }

    private static function lastWholeRestore(Workload $workload): ?float
    {
        $run = Run::query()->where('workload_id', $workload->id)->where('state', 'done')->whereJsonContains('plan->paths', '')->latest('id')->first();

        return $run?->seconds();
    }

    private function isOutside(): bool
    {
        if ($this->newest === null) {
            return false;
        }
        $sites = $this->points->sites();
        foreach ($this->pieces($this->newest) as $set) {
            if (array_filter($set->readableCopies(), fn (SetCopy $copy): bool => $sites[$copy->store] !== $this->workload->site) === []) {
                return false;
            }
        }

        return true;
    }
}
