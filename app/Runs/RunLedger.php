<?php

declare(strict_types=1);

namespace App\Runs;

use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\RunStep;
use App\Models\TrailEntry;
use Closure;

/** A run's own account of itself: which process has it, its steps, how it ended. The same for every kind of workload. */
final readonly class RunLedger
{
    public function __construct(public Run $run)
    {
    }

    /**
     * Makes the run this process's own; false if it is over, or another process has it.
     *
     * @param  list<string>  $steps
     */
    public function claim(array $steps): bool
    {
        $run = $this->run;
        if ($run->isOver() || ($run->state === 'running' && $run->worker !== null && WorkerProcess::isAlive($run->worker))) {
            return false;
        }
        // Of two that find it abandoned at once, one gets it.
        $got = Run::query()
            ->whereKey($run->id)
            ->whereIn('state', ['queued', 'running'])
            ->where(fn ($query) => $run->worker === null ? $query->whereNull('worker') : $query->where('worker', $run->worker))
            ->update([
                'state' => 'running',
                'worker' => WorkerProcess::own(),
                'started_at' => $run->started_at ?? now(),
                'heartbeat_at' => now(),
                'failure' => null,
            ]);
        $run->refresh();
        if ($got !== 1) {
            return false;
        }
        foreach ($steps as $position => $name) {
            RunStep::query()->firstOrCreate(['run_id' => $run->id, 'position' => $position], ['name' => $name]);
        }

        return true;
    }

    /** @param  Closure(): string  $work */
    public function step(int $position, Closure $work): void
    {
        $step = RunStep::query()
            ->where(['run_id' => $this->run->id, 'position' => $position])
            ->firstOrFail();
        $step->update(['state' => 'running', 'started_at' => now()]);
        $detail = $work();
        $step->update(['state' => 'done', 'ended_at' => now(), 'detail' => mb_scrub($detail)]);
    }

    /** @param  string  $done  what it had done before that */
    public function fail(string $because, string $state, string $done): void
    {
        RunStep::query()
            ->where('run_id', $this->run->id)
            ->where('state', 'running')
            ->update(['state' => 'failed', 'ended_at' => now()]);
        $this->run->update(['state' => $state, 'failure' => mb_scrub($because).$done, 'ended_at' => now()]);
        $this->tell(
            "Run {$this->run->id} ".($state === 'stopped' ? 'was stopped' : 'failed').': '.mb_strcut(mb_scrub($because), 0, 900),
            'open',
        );
    }

    /** Something that it needs is not there yet: it is gone on with by itself when it is. */
    public function wait(RunMustWait $wait): void
    {
        $run = $this->run;
        RunStep::query()
            ->where('run_id', $run->id)
            ->where('state', 'running')
            ->update(['state' => 'waiting', 'detail' => $wait->getMessage()]);
        $run->update(['state' => 'waiting', 'worker' => null, 'waits_for' => $wait->for]);
        TrailEntry::add("Run {$run->id} waits: {$wait->getMessage()}.", $run->request, null, $run);
    }

    /** Tells the request, and the trail. */
    public function tell(string $what, string $state): void
    {
        $request = $this->run->request;
        if ($request instanceof RecoveryRequest && $request->state !== 'closed') {
            $request->update(['state' => $state]);
        }
        TrailEntry::add($what, $request, null, $this->run);
    }

    /** Ends what a process that died began, so that it can be undone; false if one is at work on it. */
    public function giveUp(): bool
    {
        $run = $this->run;
        if ($run->state === 'queued' || ($run->state === 'running' && $run->worker !== null && WorkerProcess::isAlive($run->worker))) {
            return false;
        }
        if (! $run->isOver()) {
            $run->update(['state' => 'failed', 'failure' => 'Its process died, and it was put back.', 'ended_at' => now()]);
        }

        return true;
    }
}
