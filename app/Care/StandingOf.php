<?php

declare(strict_types=1);

namespace App\Care;

use App\Kinds\Kinds;
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
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\SetCopy;
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
        $source = Kinds::of($workload)->source($workload);
        $inDoubt = array_filter($points->sets, fn (SetOutline $set): bool => $set->set->inDoubt);
        $making = Making::query()
            ->where('workload_id', $workload->id)
            ->whereIn('state', ['done', 'failed', 'missed'])
            ->latest('id')
            ->first();
        $checked =
            $this->newest === null
                ? null
                : Check::query()
                    ->whereIn('copy_id', array_map(fn (CopyOutline $copy): int => $copy->id, $this->newest->copies))
                    ->where('result', 'right')
                    ->max('at');
        $this->standing = new Standing(
            $this->newest === null ? null : (int) max(0, $this->newest->capturedAt()->diffInSeconds($now)),
            $workload->rpo_s,
            $this->newest === null ? null : $points->judge->restoreSeconds($this->newest),
            self::lastWholeRestore($workload),
            $workload->rto_s,
            $points->judge->hurt(),
            count($inDoubt),
            count($points->sets),
            $source->isGone(),
            $source->isKnown(),
            $this->isOutside(),
            $workload->needs_outside_copy,
            Schedule::query()->where('workload_id', $workload->id)->where('on', true)->exists(),
            $checked === null ? null : (int) (new CarbonImmutable($checked))->diffInSeconds($now),
            $making === null || $making->state === 'done' ? null : (string) $making->failure,
        );
    }

    /** Writes down how all workloads stand today. */
    public static function recordAll(): void
    {
        foreach (Workload::query()->get() as $workload) {
            Kinds::goOn($workload, 'Writing down the standing', fn () => self::record($workload));
        }
    }

    private static function record(Workload $workload): void
    {
        $standing = (new self($workload, new Points($workload)))->standing;
        DB::table('objective_days')->upsert(
            [
                'workload_id' => $workload->id,
                'day' => now()->utc()->format('Y-m-d'),
                'age_s' => $standing->ageSeconds,
                'restore_s' => $standing->restoreSeconds === null ? null : (int) $standing->restoreSeconds,
                'unusable' => $standing->unusable,
                'met' => $standing->isMet(),
            ],
            ['workload_id', 'day'],
            ['age_s', 'restore_s', 'unusable', 'met'],
        );
    }

    /** @return list<ChainSet> what the point is made of, as far as its chain is known */
    private function pieces(SetOutline $point): array
    {
        return array_map(fn (SetOutline $set): ChainSet => $set->set, $this->points->chain($point->name) ?: [$point]);
    }

    private static function lastWholeRestore(Workload $workload): ?float
    {
        $run = Run::query()
            ->where('workload_id', $workload->id)
            ->where('state', 'done')
            ->where('is_whole', true)
            ->whereNull('taken_as')
            ->latest('id')
            ->first();

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
