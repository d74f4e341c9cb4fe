<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Kinds\Machines\Names\LeadNames;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Machines\Order\PlacementWish;
use App\Kinds\Machines\Order\RecordedSettings;
use App\Kinds\Machines\Run\NextRun;
use App\Kinds\Machines\Standing\FollowStep;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Sets\Points;
use App\Sets\SetOutline;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Names\NameFailure;

/** Orders that a machine which stands in goes home. */
final readonly class GoHome
{
    public function __construct(private Substitute $substitute)
    {
    }

    /**
     * What stands in the way, as both hypervisors were seen last; the run itself asks them again.
     *
     * @return list<string>
     */
    public function blockers(HomeWish $wish): array
    {
        $substitute = $this->substitute;
        if ($substitute->workload->needs_approval) {
            return ["{$substitute->workload->name} is marked: what changes it in place waits for a second person. Have it brought back ".
                'at its hypervisor on the worksheet of a request.'];
        }
        $points = new Points($substitute->workload);
        $point = FollowStep::newest($points);
        try {
            $order = HomeOrder::of($substitute, $wish);
            LeadNames::turned($substitute->ledNames(), $wish->address);
            $home = $order->home();
            $seen = $home->silent === null ? $home->lastSeen() : null;

            return match (true) {
                $home->id === $substitute->hypervisor_id => ["It stands in at {$home->name}: name the hypervisor that is its home now."],
                $seen === null => ["{$home->name} does not answer. If its home is another hypervisor now, name that."],
                $point === null => ["No set of {$substitute->workload->name} can be used now."],
                default => self::plan($points, $point, $order, $seen)->blockers(),
            };
        } catch (CannotBring|NameFailure $cannot) {
            return [ucfirst($cannot->getMessage())];
        }
    }

    /**
     * How a point comes home: into the machine that stands there, only where it differs; or as a new one.
     *
     * @param  bool  $isLast  whether it is the last step, after which it is started; what is written over is there for certain
     *
     * @throws CannotBring
     */
    public static function plan(Points $points, SetOutline $point, HomeOrder $order, SeenHost $seen, bool $isLast = false): PlacementPlan
    {
        $isThere = isset($seen->machines[$order->machine]);
        $way = $isLast || ($isThere && ! $order->isAside) ? MachineWay::Rollback : MachineWay::Whole;
        $wish = new PlacementWish(
            $way, $order->on, $order->machine, $order->storage, $order->network,
            setsAside: $order->isAside, stopsIt: $isLast, starts: $isLast, shutsDown: $isLast,
            wired: self::wired($points, $order),
        );

        return PlacementPlan::settle($points, $point, $wish, $order->home(), $seen);
    }

    /** @return array<string, string> address of a card => the network that it was on at home, as the set says that was brought elsewhere */
    private static function wired(Points $points, HomeOrder $order): array
    {
        $set = $points->sets[$order->substitute()->run->set_id] ?? null;
        $was = $set === null ? null : RecordedSettings::said($points->model($set));

        return array_column($was->cards ?? [], 'network', 'mac');
    }

    /** @throws CannotBring if it cannot go home now */
    public function order(HomeWish $wish, ?User $by): Run
    {
        $substitute = $this->toGo();
        $blockers = $this->blockers($wish);
        $blockers === [] || throw CannotBring::because(implode(' ', $blockers));
        $order = HomeOrder::of($substitute, $wish);
        $run = NextRun::ordered($substitute->run, $order->toArray(), $order->sentence, $by);
        $substitute->update(['home_run_id' => $run->id, 'home_at' => null, 'home_wish' => null, 'home_by' => null]);

        return $run;
    }

    /** @throws CannotBring if it cannot be for then */
    public function orderAt(CarbonImmutable $at, HomeWish $wish, ?User $by): void
    {
        $substitute = $this->toGo();
        $at->isFuture() || throw CannotBring::because('The time at which it is to go home lies ahead.');
        $substitute->update(['home_at' => $at, 'home_wish' => $wish->toArray(), 'home_by' => $by?->id]);
        $when = $at->format('j M Y H:i T');
        $words = "{$substitute->machine} at {$substitute->hypervisor->name} is to be brought home at $when.";
        TrailEntry::add($words, $substitute->run->request, $by, $substitute->run);
    }

    /** @throws CannotBring */
    private function toGo(): Substitute
    {
        $substitute = $this->substitute;
        $substitute->ended === null || throw CannotBring::because('It does not stand in any more.');
        $substitute->isGoingHome() && throw CannotBring::because("Run {$substitute->home_run_id} brings it home already.");

        return $substitute;
    }

    /** Begins what was ordered for now, or for before; what stands in the way then is told, and it does not begin. */
    public static function whenDue(): void
    {
        foreach (Substitute::query()->whereNull('ended')->where('home_at', '<=', now())->get() as $substitute) {
            [$wish, $by] = [HomeWish::fromArray($substitute->home_wish ?? []), $substitute->homeBy];
            try {
                HomeOrder::of($substitute, $wish)->home()->lookIfItAnswers();
                CarryOutRun::dispatch((new self($substitute->refresh()))->order($wish, $by)->id);
            } catch (CannotBring $cannot) {
                $substitute->update(['home_at' => null]);
                $words = "{$substitute->machine} was not brought home when that was due: {$cannot->getMessage()}";
                TrailEntry::add($words, $substitute->run->request, $by, $substitute->run);
            }
        }
    }
}
