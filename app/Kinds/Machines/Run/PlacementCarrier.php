<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\RunLedger;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that bring a machine back at a hypervisor. */
final readonly class PlacementCarrier extends CarrierAtHypervisor
{
    public function carryOut(Run $run): void
    {
        (new PlacementRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return PlacementUndo::isPossible($run);
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        (new RunLedger($run))->giveUp() || throw UnableToRestore::refused("Run {$run->id} is still at work.");

        return self::told($run, (new PlacementUndo($run))->putBack($alsoChanged));
    }

    public static function told(Run $run, PutBackDone $done): PutBackTold
    {
        $isWhole = $done->left === [];
        if ($isWhole) {
            $run->update(['put_back_at' => now()]);
        }
        $lines = [$isWhole ? "Run {$run->id} is put back." : "Run {$run->id} is not put back whole.", ...$done->lines()];
        TrailEntry::add(implode(' ', array_map(trim(...), $lines)), $run->request, null, $run);

        return new PutBackTold($done->kept(), ['run' => $run->id] + $done->kept(), $lines, $isWhole);
    }

    public function clearAside(Run $run, ?User $by): void
    {
        (new PlacementUndo($run))->clearAside();
        $outcome = ['aside_cleared' => true] + ($run->outcome ?? []);
        $run->update(['set_aside_until' => null, 'outcome' => $outcome]);
        TrailEntry::add(
            "What run {$run->id} set aside at {$outcome['on']} was removed: it cannot be put back any more.",
            $run->request,
            $by,
            $run,
        );
    }

    public function clearStaged(Run $run): void
    {
        (new PlacementUndo($run))->clearStaged();
    }

    public function touches(Run $run): Touched
    {
        return TouchedMachine::by(PlacementOrder::fromArray($run->plan));
    }

    public function came(Run $run): string
    {
        $order = PlacementOrder::fromArray($run->plan);

        return "{$order->machine} at {$order->on}, ".
            match ($order->way) {
                MachineWay::Configuration => 'its configuration',
                MachineWay::StandUp => 'running off its sets',
                default => Words::size((int) ($run->outcome['bytes'] ?? 0)).' written',
            };
    }
}
