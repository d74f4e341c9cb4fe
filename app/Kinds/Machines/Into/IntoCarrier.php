<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Run\BlocksAside;
use App\Kinds\Machines\Run\BlocksBack;
use App\Kinds\Machines\Run\CarrierAtHypervisor;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\PlacementCarrier;
use App\Kinds\Machines\Run\PlacementUndo;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\RunLedger;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Runs that bring files into a machine, off or running. */
final readonly class IntoCarrier extends CarrierAtHypervisor
{
    public function carryOut(Run $run): void
    {
        IntoOrder::fromArray($run->plan)->isRunning
            ? (new IntoRunningRun($this->told))->carryOut($run)
            : (new IntoRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return PlacementUndo::isPossible($run) || (($run->outcome['moved'] ?? []) !== [] && $run->put_back_at === null);
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        (new RunLedger($run))->giveUp() || throw UnableToRestore::refused("Run {$run->id} is still at work.");
        $order = IntoOrder::fromArray($run->plan);
        MachineLock::take($order->machine, $order->on);
        try {
            if ($order->isRunning) {
                return PlacementCarrier::told($run, (new RunningBack($run))->putBack($alsoChanged));
            }
            $hypervisor = $order->host()->open();
            if ($hypervisor->machine($order->machine)?->isRunning()) {
                throw UnableToRestore::refused("{$order->machine} at {$order->on} runs: shut it down first.");
            }
            $done = (new BlocksBack($run, $hypervisor, $order->machine))->write(BlocksAside::disksOf($run));
        } catch (HypervisorFailure $failure) {
            throw UnableToRestore::refused(ucfirst($failure->getMessage()).'.');
        } finally {
            MachineLock::free($order->machine, $order->on);
        }

        return PlacementCarrier::told($run, $done);
    }

    public function clearAside(Run $run, ?User $by): void
    {
        IntoOrder::fromArray($run->plan)->isRunning ? (new RunningBack($run))->clearAside() : (new BlocksAside($run))->remove();
        $run->update(['set_aside_until' => null, 'outcome' => ['aside_cleared' => true] + ($run->outcome ?? [])]);
        TrailEntry::add("What run {$run->id} wrote over was removed: it cannot be put back any more.", $run->request, $by, $run);
    }

    public function touches(Run $run): Touched
    {
        $order = IntoOrder::fromArray($run->plan);

        return TouchedMachine::at($order->host(), $order->machine, true);
    }

    public function came(Run $run): string
    {
        $order = IntoOrder::fromArray($run->plan);

        return Words::count((int) ($run->outcome['files'] ?? 0), 'file')." into {$order->machine} at {$order->on}";
    }

    public function howFar(Run $run): string
    {
        return Words::count($run->files_done, 'file');
    }
}
