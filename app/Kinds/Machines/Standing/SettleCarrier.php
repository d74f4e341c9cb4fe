<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Carrier;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Run\ImageCarrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use App\Trees\Run\TreeCarrier;
use Closure;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that settle a machine. There is nothing to undo: what undoes the run that stood it up undoes this too. */
final readonly class SettleCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        (new SettleRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return false;
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        throw UnableToRestore::refused('Put run '.SettleOrder::fromArray($run->plan)->stands.' back, which stood the machine up.');
    }

    public function clearAside(Run $run, ?User $by): void
    {
    }

    public function clearStaged(Run $run): void
    {
    }

    public function touches(Run $run): Touched
    {
        return TouchedMachine::by(SettleOrder::fromArray($run->plan)->placed());
    }

    public function sentence(Run $run, string $zone): string
    {
        return (new TreeCarrier)->sentence($run, $zone);
    }

    public function came(Run $run): string
    {
        $order = SettleOrder::fromArray($run->plan);

        return "{$order->machine} at {$order->on}, on its own storage";
    }

    public function howFar(Run $run): string
    {
        return (new ImageCarrier)->howFar($run);
    }

    public function besideProof(Run $run): array
    {
        return [];
    }

    public function evidence(array $evidence): array
    {
        return $evidence;
    }
}
