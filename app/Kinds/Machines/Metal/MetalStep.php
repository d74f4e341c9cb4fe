<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Blank\BlankOrder;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\FollowStep;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\UnableToRead;

/** One step of a machine whose medium waits: to the newest good point, if it is not there yet. It is a run like any other. */
final readonly class MetalStep
{
    public function __construct(private Enrolment $one)
    {
    }

    /** Begins it if it is due, and there is a newer point; a worker carries it out. */
    public function take(): void
    {
        $stepped = $this->one->stepped_at;
        $isDue = $stepped === null || $stepped->addMinutes((int) $this->one->follow_minutes)->isPast();
        if (! $isDue || ! $this->isBetween()) {
            return;
        }
        $this->one->update(['stepped_at' => now()]);
        $points = new Points($this->one->workload);
        $point = FollowStep::newest($points);
        $because = $point === null || $point->id === $this->one->at_set_id ? null : $this->because($points, $point);
        $this->one->update(['because' => $because]);
        if ($point !== null && $point->id !== $this->one->at_set_id && $because === null) {
            CarryOutRun::dispatch($this->run($this->ordered($points, $point)->toArray(), $point, null)->id);
        }
    }

    /**
     * The last one: to the newest point; then the machine is let go.
     *
     * @throws CannotBring
     */
    public function last(?User $by): Run
    {
        $this->one->isFollowing() || throw CannotBring::because("The enrolment {$this->one->id} does not wait for newer points.");
        $this->isBetween() || throw CannotBring::because("Run {$this->one->run_id} is at work on it.");
        $points = new Points($this->one->workload);
        $point = FollowStep::newest($points) ?? throw CannotBring::because('There is no point that can be used.');
        $because = $this->because($points, $point);
        $because === null || throw CannotBring::because($because);
        $maker = $this->one->maker;
        $order = $this->ordered($points, $point)->with(follow: null);
        $plan = $maker === null ? $order->toArray() : BlankOrder::fromArray($maker->plan)
            ->with(enrolment: $this->one->id, maker: $maker->id, follow: null, sentence: $order->sentence)
            ->toArray();
        $run = $this->run($plan, $point, $by);
        TrailEntry::add("Run {$run->id} was ordered: {$plan['sentence']}", $this->one->request, $by, $run);

        return $run;
    }

    private function isBetween(): bool
    {
        return $this->one->run === null || $this->one->run->isOver();
    }

    /** Why it cannot go to a point; null if it can. */
    private function because(Points $points, SetOutline $point): ?string
    {
        if ($this->one->isSilent()) {
            return 'Its medium has not been heard of for '.Words::duration(Enrolment::SILENT).': is the machine off, or its network cut?';
        }
        try {
            $was = $this->first();
            if (! KeptLayout::read($points, $point, $was->copies)->isLaidOutLike($was->layout)) {
                return "At {$point->name} its disks are laid out in another way: end this, and bring it anew.";
            }
            $blockers = MetalSources::of($points, $point, $was->copies)->blockers();
        } catch (CannotBring|UnableToRead $unable) {
            $blockers = [$unable->getMessage()];
        }

        return $blockers === [] ? null : mb_strcut(implode(' ', $blockers), 0, 1000);
    }

    /** As it was brought first. */
    private function first(): MetalOrder
    {
        $maker = $this->one->maker;
        $run = $this->one->run ?? throw CannotBring::because('Nothing was brought there yet.');

        return $maker === null
            ? MetalOrder::fromArray($run->plan)
            : BlankOrder::fromArray($maker->plan)->onto($this->one->id, $this->one->targetMachine());
    }

    private function ordered(Points $points, SetOutline $point): MetalOrder
    {
        return $this->first()->with(
            number: $this->one->orders + 1,
            sentence: "Bring the machine of enrolment {$this->one->id} from what it was to {$points->workload->name} as of ".
                Words::moment($point->capturedAt(), 'UTC').', and read all of it again.',
        );
    }

    /** @param  array<string, mixed>  $plan */
    private function run(array $plan, SetOutline $point, ?User $by): Run
    {
        $run = OrderedRun::begin($this->one->workload, $point, $plan, false, $by === null ? null : $this->one->request, $by);
        $this->one->update(['run_id' => $run->id]); // at once: no other is ordered beside it

        return $run;
    }
}
