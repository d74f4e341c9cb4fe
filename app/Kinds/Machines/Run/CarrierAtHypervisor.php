<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Carrier;
use App\Models\Run;
use App\Trees\Run\TreeCarrier;
use Closure;

/** What all runs at a hypervisor have in common when they are carried, told and proven. */
abstract readonly class CarrierAtHypervisor implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    final public function __construct(protected ?Closure $told = null)
    {
    }

    final public function losesLaterChanges(): bool
    {
        return false;
    }

    /** What they stage goes with them. */
    public function clearStaged(Run $run): void
    {
    }

    final public function sentence(Run $run, string $zone): string
    {
        return (new TreeCarrier)->sentence($run, $zone);
    }

    public function howFar(Run $run): string
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
