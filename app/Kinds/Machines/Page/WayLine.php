<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\MeasuredRates;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Machines\Order\WayTimes;
use App\Kinds\Machines\Standing\Standing;
use App\Words;

/** One way of bringing a machine back, as it stands beside the others. */
final readonly class WayLine
{
    /**
     * @param  string|null  $because  why it cannot be taken; null if it can
     */
    private function __construct(
        public MachineWay $way,
        public string $title,
        public string $touches,
        public string $standsStill,
        public string $writes,
        public string $lost,
        public string $end,
        public ?string $because,
        public bool $isChosen,
        public WayTimes $times,
    ) {
    }

    public function seconds(): float
    {
        return $this->times->all();
    }

    /**
     * Its times as parts of a drawing.
     *
     * @param  float  $longest  seconds of the longest of the ways
     */
    public function bar(float $longest): WayBar
    {
        $scale = WayBar::WIDTH / max($longest, 0.001);

        return new WayBar(
            round($this->times->goesOn * $scale, 1),
            round(max(1.0, $this->times->standsStill * $scale), 1),
            round($this->times->owed * $scale, 1),
        );
    }

    public function timesInWords(): string
    {
        return Words::duration($this->times->goesOn).' while it goes on, '.Words::duration($this->times->standsStill).' still, '.
            Words::duration($this->times->owed).' owed';
    }

    public static function of(PlacementPlan $plan, bool $isChosen, MeasuredRates $rates): self
    {
        $order = $plan->order;
        $there = $plan->present();
        $bytes = $order->way->needsDisks() ? Words::size(array_sum($plan->planned->bytes())) : 'nothing';
        $runs = $there?->isRunning() ?? false;
        $others = $order->way === MachineWay::StandUp ? Standing::others() : 0;

        return new self(
            $order->way,
            ucfirst($order->way->words()),
            match (true) {
                $order->way->isNew() && ! $order->isAside => 'nothing that is there',
                $order->way->isNew() => 'the machine that stands there: another name',
                $order->way === MachineWay::Disks => 'the disks it has: set aside',
                $order->way === MachineWay::Rollback => 'blocks of its disks: set aside',
                default => 'how it is configured',
            },
            match (true) {
                $there === null => 'it is gone already',
                $order->way === MachineWay::Rollback => 'from the first comparison on'.($runs ? ', ended by the order' : ''),
                $order->way->isNew() && ! $order->isAside => 'not at all',
                $order->way === MachineWay::StandUp => 'until the other has started'.($runs ? ', ended by the order' : ''),
                default => 'a moment, once all is right'.($runs ? ', ended by the order' : ''),
            },
            match ($order->way) {
                MachineWay::Rollback => "what differs, of $bytes",
                MachineWay::StandUp => 'nothing at first',
                default => $bytes,
            },
            match ($order->way) {
                MachineWay::Configuration => 'nothing on its disks',
                MachineWay::Disks => 'what was written to these disks since',
                default => $there === null ? 'what was written since the point' : 'what was written since; it is kept aside',
            },
            match ($order->way) {
                MachineWay::Whole => 'a machine of its own, on '.implode(', ', array_unique($order->storages)),
                MachineWay::StandUp => 'a machine of its own that reads from the store, until it is settled'.self::beside($others, $rates),
                MachineWay::Disks => 'the machine that is there, with these disks',
                MachineWay::Rollback => 'the machine that is there, as it was',
                MachineWay::Configuration => 'the machine that is there',
            },
            self::because($plan),
            $isChosen,
            WayTimes::of($order, $plan->planned, $there === null, $rates, $others),
        );
    }

    /** That others stand already is told, and whether so many were ever tried. */
    private static function beside(int $others, MeasuredRates $rates): string
    {
        return $others === 0 ? '' : '; '.Words::count($others, 'other').($others === 1 ? ' does' : ' do').' so already'.
            ($rates->isTriedBeside($others) ? '' : ', and so many were not tried here yet');
    }

    /** Only what no setting of the order changes. */
    private static function because(PlacementPlan $plan): ?string
    {
        return $plan->order->way->isThere() && $plan->present() === null
            ? "no machine {$plan->order->machine} stands there"
            : null;
    }
}
