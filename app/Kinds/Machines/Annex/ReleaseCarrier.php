<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Standing\StandingCarrier;
use App\Kinds\Touched;
use App\Models\Run;

/** Runs that release a machine out of its annex. */
final readonly class ReleaseCarrier extends StandingCarrier
{
    public function carryOut(Run $run): void
    {
        (new ReleaseRun($this->told))->carryOut($run);
    }

    public function touches(Run $run): Touched
    {
        return TouchedMachine::by(ReleaseOrder::fromArray($run->plan)->touched());
    }

    public function came(Run $run): string
    {
        return "{$run->plan['machine']} at {$run->plan['on']}, out of its annex";
    }
}
