<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Carrier;
use App\Kinds\Machines\Run\ImageCarrier;
use App\Kinds\PutBackTold;
use App\Models\Run;
use App\Models\User;
use App\Trees\Run\TreeCarrier;
use Closure;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that decide about a machine that stands. What undoes the run that stood it up undoes them too, and nothing else does. */
abstract readonly class StandingCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    final public function __construct(protected ?Closure $told = null)
    {
    }

    final public function canBePutBack(Run $run): bool
    {
        return false;
    }

    final public function losesLaterChanges(): bool
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

    final public function clearStaged(Run $run): void
    {
    }

    final public function sentence(Run $run, string $zone): string
    {
        return (new TreeCarrier)->sentence($run, $zone);
    }

    final public function howFar(Run $run): string
    {
        return (new ImageCarrier)->howFar($run);
    }

    final public function besideProof(Run $run): array
    {
        return [];
    }

    final public function evidence(array $evidence): array
    {
        return $evidence;
    }
}
