<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Jobs\CarryOutRun;
use App\Kinds\Kinds;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Machines\Order\PlacementWish;
use App\Models\Run;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Instant;

/**
 * One step of a machine that follows: to the newest good point, if it is not there yet. It is a run like any that writes only the blocks
 * that differ; what they held before is not kept, since what it was is a point.
 */
final readonly class FollowStep
{
    public function __construct(private Following $following)
    {
    }

    /** Begins it if it is due; a worker carries it out. */
    public function take(): void
    {
        $run = $this->isBetween() && $this->isDue() ? $this->order(false) : null;
        $run === null || CarryOutRun::dispatch($run->id);
    }

    /**
     * The last one: to the newest point, and then it is started.
     *
     * @throws CannotBring
     */
    public function last(): Run
    {
        $this->isBetween() || throw CannotBring::because("Run {$this->following->step_id} is at work on it.");

        return $this->order(true) ?? throw CannotBring::because($this->following->because ?? 'It does not follow any more.');
    }

    /** Whether none is at work; what came of the last is taken note of. */
    private function isBetween(): bool
    {
        $step = $this->following->step;
        if ($step === null || ! $step->isOver()) {
            return $step === null;
        }
        if ($step->state === 'done') {
            $this->following->update(['set_id' => $step->set_id, 'step_id' => null, 'because' => null]);
            Kinds::of($step)->carrier()->clearAside($step, null);
            if (PlacementOrder::fromArray($step->plan)->starts) {
                $this->following->end(Following::STARTED);

                return false;
            }
        } else {
            $this->following->update(['step_id' => null, 'because' => mb_substr((string) $step->failure, 0, 1000)]);
        }

        return true;
    }

    private function isDue(): bool
    {
        $stepped = $this->following->stepped_at;

        return $stepped === null || $stepped->addMinutes($this->following->minutes)->isPast();
    }

    /** Null where it is at the newest point, or cannot go there, or is not followed any more. */
    private function order(bool $isLast): ?Run
    {
        $following = $this->following;
        $following->update(['stepped_at' => now()]);
        try {
            $seen = $following->hypervisor->look();
        } catch (HypervisorFailure $silent) {
            $following->update(['because' => mb_substr($silent->getMessage(), 0, 1000)]);

            return null;
        }
        $machine = $seen->machines[$following->machine] ?? null;
        if ($machine === null || $machine->isRunning()) {
            $following->end($machine === null ? Following::GONE : Following::STARTED);

            return null;
        }
        $points = new Points($following->run->workload);
        $point = self::newest($points);
        if ($point === null || (! $isLast && $point->id === $following->set_id)) {
            return null;
        }
        $placed = PlacementOrder::fromArray($following->run->plan);
        $wish = new PlacementWish(MachineWay::Rollback, $placed->on, $placed->machine, disks: $placed->disks, starts: $isLast);
        try {
            $plan = PlacementPlan::settle($points, $point, $wish, $following->hypervisor, $seen);
            $blockers = $plan->blockers();
        } catch (CannotBring $cannot) {
            [$plan, $blockers] = [null, [$cannot->getMessage()]];
        }
        $following->update(['because' => $blockers === [] ? null : mb_substr(implode(' ', $blockers), 0, 1000)]);

        return $plan === null || $blockers !== [] ? null : $this->run($plan, $point, $isLast);
    }

    /** The newest point that can be used. */
    public static function newest(Points $points): ?SetOutline
    {
        $found = $points->find(Instant::of(now()), Demands::parse(''))->set;

        return $found === null ? null : $points->set($found->id);
    }

    private function run(PlacementPlan $plan, SetOutline $point, bool $isLast): Run
    {
        $of = $this->following->run;
        $run = Run::query()->create([
            'workload_id' => $of->workload_id,
            'request_id' => $isLast ? $of->request_id : null,
            'set_id' => $point->id,
            'state' => 'queued',
            'plan' => $plan->order->toArray(),
            'is_whole' => false,
        ]);
        $this->following->update(['step_id' => $run->id]);

        return $run;
    }
}
