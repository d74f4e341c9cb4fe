<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\NewMachineStep;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Words;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Proof\CheckLine;

/**
 * A new machine whose disks are read from the sets of the point while it runs: nothing is copied before it starts. It has a name that says
 * so until it is settled.
 */
final class StoodUp extends WayAtHypervisor
{
    protected const STEPS = ['serve its disks', 'make the machine over them', 'set aside what stands there', NewMachineStep::START];

    /** Seconds in which whoever serves disks must have begun. */
    private const BEGINS = 60;

    /** Its name while it stands. */
    public static function nameOf(Run $run, string $machine): string
    {
        return substr($machine, 0, 60).".standing-run-{$run->id}";
    }

    private function name(): string
    {
        return self::nameOf($this->run, $this->order->machine);
    }

    private function served(): ServedDisks
    {
        return ServedDisks::of($this->run);
    }

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $ledger->step($first, fn (): string => $this->serve());
        $ledger->step($first + 1, fn (): string => $this->make());
        $ledger->step($first + 2, fn (): string => $this->giveWay());
        $this->remember(beside: Standing::others($this->run));
        $started = $this->started($ledger, $first + 3, $this->name());
        $checks = [$this->settingsCheck($this->name(), $this->settings()), ...$started, $this->readCheck()];

        return new PlacementOutcome([], $checks, $this->order->isAside);
    }

    private function serve(): string
    {
        $this->served()->begin($this->planned, $this->hypervisor->servedAt($this->served()->name));
        for ($until = microtime(true) + self::BEGINS; ! $this->served()->isServed() && microtime(true) < $until;) {
            usleep(50_000);
            $this->progress->advanced(0, 0);
        }
        $this->served()->isServed() || throw CannotBring::because('Nobody serves disks here. "bin/start" begins what does.');

        return implode(', ', array_keys($this->planned->disks)).', each block compared with its digest before it is given';
    }

    private function make(): string
    {
        if ($this->recalled('made') === true) {
            return 'made before';
        }
        $this->hypervisor->machine($this->name()) === null || $this->hypervisor->delete($this->name());
        $doors = ServedDisks::doors($this->hypervisor->servedAt($this->served()->name), array_keys($this->planned->disks));
        $this->hypervisor->create($this->settings(), $this->order->storages, $doors);
        $this->mark($this->name(), array_keys($this->planned->disks));
        $until = $this->order->until === null ? null : CarbonImmutable::createFromTimestampUTC($this->order->until);
        Standing::begin($this->run, $this->order->host(), $this->name(), $until);
        $this->remember(made: true);

        return "{$this->name()}, until it is settled";
    }

    /** How it is configured while it stands: in an annex, if that was ordered, and not on the networks that it will be on. */
    private function settings(): MachineSettings
    {
        $settings = $this->order->settings->with(name: $this->name());
        if (! $this->order->annex) {
            return $settings;
        }
        $annex = Annex::open($this->run, $this->order->host(), $this->hypervisor, $this->order->joins);

        return $settings->with(cards: array_map(
            fn (CardSettings $card): CardSettings => $card->with(network: $annex->name),
            $settings->cards,
        ));
    }

    private function giveWay(): string
    {
        $this->setAside();
        $this->remember(placed: true, stands_as: $this->name(), settings: $this->order->settings->toArray());

        return match (true) {
            $this->order->isAside => "the one before is {$this->asideName()}",
            $this->order->annex => 'in an annex it is in nobody\'s place',
            default => 'nothing stands there',
        };
    }

    private function readCheck(): CheckLine
    {
        $state = $this->served()->state();

        return CheckLine::of('every block that it read so far could be given, and was right', $state->refused === 0, $state->refused === 0
            ? Words::size($state->bytes)
            : Words::count($state->refused, 'time').' something could not be given; the last was '.$state->why);
    }

    public function release(): void
    {
        if ($this->recalled('made') !== true) {
            $this->served()->end();
        }
    }

    public function whatWasDone(): string
    {
        return match (true) {
            $this->recalled('placed') === true => " {$this->name()} stands; discard the run, or go on with it.",
            $this->recalled('made') === true => " {$this->name()} is made, and off; go on with the run, or put it back.",
            default => ' What stood there is as it was.',
        };
    }
}
