<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Kinds;
use App\Kinds\Refusal;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Kaiseki\Core\Files\UnableToRestore;

/** What runs replaced, kept for a set time so that it can be put back. */
final class SetAsides
{
    public const DAYS = 14;

    /** How long a stopped run can be gone on with where it was. */
    private const STAGED_DAYS = 3;

    /** @return Builder<Run> runs of which something is kept */
    public static function kept(): Builder
    {
        return Run::query()->with('workload')->whereNotNull('set_aside_until')->whereNull('put_back_at')->orderBy('set_aside_until');
    }

    /**
     * Removes those whose time is over, and what runs had staged that nobody went on with; what cannot be reached is tried again the next
     * time.
     */
    public static function clearOld(): void
    {
        foreach (
            Run::query()
                ->where('state', 'stopped')
                ->whereNull('put_back_at')
                ->where('ended_at', '<', now()->subDays(self::STAGED_DAYS))
                ->get() as $run
        ) {
            try {
                Kinds::of($run)->carrier()->clearStaged($run);
            } catch (UnableToRestore|Refusal) {
                continue;
            }
        }
        foreach (self::kept()->where('set_aside_until', '<', now())->get() as $run) {
            try {
                self::clear($run);
            } catch (UnableToRestore|Refusal) {
                continue;
            }
        }
    }

    /**
     * Removes what a run replaced: from then on it cannot be put back.
     *
     * @throws UnableToRestore|Refusal if the target cannot be reached, or a run is at work there
     */
    public static function clear(Run $run, ?User $by = null): void
    {
        Kinds::of($run)->carrier()->clearAside($run, $by);
    }

    public static function keepUntil(Run $run, CarbonImmutable $until, ?User $by = null): void
    {
        $run->update(['set_aside_until' => $until]);
        TrailEntry::add("What run {$run->id} replaced is kept until {$until->utc()->format('Y-m-d H:i')} UTC.", $run->request, $by, $run);
    }
}
