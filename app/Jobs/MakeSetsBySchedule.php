<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Making;
use App\Models\Schedule;
use App\Models\TrailEntry;
use App\Runs\WorkerProcess;
use Carbon\CarbonImmutable;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Instant;

/** Begins what the schedules have due, and ends what a dead worker left. */
final class MakeSetsBySchedule implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    /** What was due longer ago was missed: after the desk itself was recovered its past is not made up for all at once. */
    private const LATE_S = 3600;

    public function handle(): void
    {
        $this->endAbandoned();
        foreach (Schedule::query()->with('workload', 'store')->where('on', true)->whereNotNull('workload_id')->get() as $schedule) {
            $this->consider($schedule, CarbonImmutable::now());
        }
    }

    public function consider(Schedule $schedule, CarbonImmutable $now): void
    {
        $after = $schedule->considered_at ?? ($schedule->updated_at ?? $now);
        $due = $schedule->timetable()->due(Instant::of($after), Instant::of($now));
        $schedule->timestamps = false;
        $schedule->update(['considered_at' => $now]);
        if ($due === null || $schedule->workload === null) {
            return;
        }
        [$at, $level] = $due;
        if ($at->secondsUntil(Instant::of($now)) > self::LATE_S) {
            Making::query()->create([
                'workload_id' => $schedule->workload_id,
                'store_id' => $schedule->store_id,
                'level' => $level->name,
                'why' => 'by schedule',
                'state' => 'missed',
                'failure' => "It was due at {$at->iso()}, and nobody was at work then.",
                'ended_at' => $now,
            ]);
            TrailEntry::add("A {$level->words()} of {$schedule->workload->name} was due at {$at->iso()} and was missed.", null, null);
            ReckonStanding::begin($schedule->workload_id);

            return;
        }
        if (
            Making::query()
                ->where('workload_id', $schedule->workload_id)
                ->whereIn('state', ['queued', 'running'])
                ->exists()
        ) {
            return; // the one before is not done yet
        }
        MakeSet::begin($schedule->workload, $schedule->store, $level->name, 'by schedule', null, $schedule);
    }

    private function endAbandoned(): void
    {
        foreach (Making::query()->where('state', 'running')->whereNotNull('worker')->get() as $making) {
            if (! WorkerProcess::isAlive((string) $making->worker)) {
                $making->update(['state' => 'failed', 'failure' => 'Its worker died; nothing of the set remains.', 'ended_at' => now()]);
                ReckonStanding::begin($making->workload_id);
            }
        }
    }
}
