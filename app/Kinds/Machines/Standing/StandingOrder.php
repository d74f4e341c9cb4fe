<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Run\NextRun;
use App\Models\Run;
use App\Models\User;

/** Something that was decided about a machine that stands: kept with the run that does it. */
abstract readonly class StandingOrder
{
    /**
     * @param  int  $stands  the run that stood it up
     * @param  string  $on  name of the hypervisor
     * @param  string  $machine  what it will be called there in the end
     */
    public function __construct(public int $stands, public string $on, public string $machine, public string $sentence)
    {
    }

    /** @throws CannotBring if it does not stand any more */
    public function standing(): Standing
    {
        return Standing::query()->where('run_id', $this->stands)->first()
            ?? throw CannotBring::because("Run {$this->stands} stood no machine up.");
    }

    /** How the machine was ordered when it was stood up. */
    public function placed(): PlacementOrder
    {
        return PlacementOrder::fromArray(Run::query()->findOrFail($this->stands)->plan);
    }

    /** The value of "way" in the plan of such a run. */
    abstract public static function way(): string;

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['way' => static::way()] + get_object_vars($this);
    }

    /** A run that does it, of what the other was for. */
    final public function ordered(Run $of, ?User $by): Run
    {
        return NextRun::ordered($of, $this->toArray(), $this->sentence, $by);
    }

    /** The run that stood the machine up of which another run decides something; the same run if it does not. */
    public static function standsBy(Run $run): int
    {
        return in_array($run->plan['way'] ?? '', [SettleOrder::way(), \App\Kinds\Machines\Annex\ReleaseOrder::way()], true)
            ? (int) $run->plan['stands']
            : $run->id;
    }
}
