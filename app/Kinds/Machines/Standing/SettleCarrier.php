<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Touched;
use App\Models\Run;

/** Runs that settle a machine. */
final readonly class SettleCarrier extends StandingCarrier
{
    public function carryOut(Run $run): void
    {
        (new SettleRun($this->told))->carryOut($run);
    }

    public function touches(Run $run): Touched
    {
        return TouchedMachine::by(SettleOrder::fromArray($run->plan)->placed());
    }

    public function came(Run $run): string
    {
        return "{$run->plan['machine']} at {$run->plan['on']}, on its own storage";
    }
}
