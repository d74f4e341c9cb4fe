<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Run\CarrierAtHypervisor;
use App\Kinds\PutBackTold;
use App\Models\Run;
use App\Models\User;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that decide about a machine that stands. What undoes the run that stood it up undoes them too, and nothing else does. */
abstract readonly class StandingCarrier extends CarrierAtHypervisor
{
    final public function canBePutBack(Run $run): bool
    {
        return false;
    }

    final public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        throw UnableToRestore::refused('Put run '.StandingOrder::standsBy($run).' back, which stood the machine up.');
    }

    final public function clearAside(Run $run, ?User $by): void
    {
    }
}
