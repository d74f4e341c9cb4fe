<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Databases\Run\DatabaseRun;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Trees\Run\RestorePlan;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Kaiseki\Core\Files\RestoreOrder;
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

    /** Removes those whose time is over, and what runs had staged that nobody went on with; what cannot be reached is tried again the next time. */
    public static function clearOld(): void
    {
        foreach (Run::query()->where('state', 'stopped')->whereNull('put_back_at')->where('ended_at', '<', now()->subDays(self::STAGED_DAYS))->get() as $run) {
            try {
                self::clearStaged($run);
            } catch (UnableToRestore) {
                continue;
            }
        }
        foreach (self::kept()->where('set_aside_until', '<', now())->get() as $run) {
            try {
                self::clear($run);
            } catch (UnableToRestore|CannotReachServer) {
                continue;
            }
        }
    }

    /**
     * Removes what a run replaced: from then on it cannot be put back.
     *
     * @throws UnableToRestore|CannotReachServer if the target cannot be reached, or a run is at work there
     */
    public static function clear(Run $run, ?User $by = null): void
    {
        if ($run->isOfDatabase()) {
            DatabaseRun::clearAside($run);

            return;
        }
        $plan = RestorePlan::fromArray($run->plan);
        TargetLock::take($plan->target, $plan->host);
        try {
            if ($plan->look()->status('') !== null) {
                $plan->open()->removeTree(RestoreOrder::setAsideOf((string) $run->id));
            }
            $run->update(['set_aside_until' => null]);
            TrailEntry::add("What run {$run->id} had replaced was removed from the set-aside.", $run->request, $by, $run);
        } finally {
            TargetLock::free($plan->target, $plan->host);
        }
    }

    /** @throws UnableToRestore */
    private static function clearStaged(Run $run): void
    {
        if ($run->isOfDatabase()) {
            return; // it begins anew, and keeps nothing meanwhile
        }
        $plan = RestorePlan::fromArray($run->plan);
        $staging = RestoreOrder::stagingOf((string) $run->id);
        if ($plan->look()->status($staging) !== null) {
            $plan->open()->removeTree($staging);
        }
    }

    public static function keepUntil(Run $run, CarbonImmutable $until, ?User $by = null): void
    {
        $run->update(['set_aside_until' => $until]);
        TrailEntry::add("What run {$run->id} replaced is kept until {$until->utc()->format('Y-m-d H:i')} UTC.", $run->request, $by, $run);
    }
}
