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

    /** @param  array{removed: list<string>, returned: list<string>, left: list<array{path: string, because: string}>}  $done */
    public static function told(Run $run, array $done): PutBackTold
    {
        $isWhole = $done['left'] === [];
        if ($isWhole) {
            $run->update(['put_back_at' => now()]);
        }
        $lines = [
            $isWhole ? "Run {$run->id} is put back." : "Run {$run->id} is not put back whole.",
            ...array_map(fn (string $what): string => "  there again: $what", $done['returned']),
            ...array_map(fn (string $what): string => "  gone: $what", $done['removed']),
            ...array_map(fn (array $left): string => "  left as it is: {$left['path']}: {$left['because']}", $done['left']),
        ];
        TrailEntry::add(implode(' ', array_map(trim(...), $lines)), $run->request, null, $run);
        $counts = [
            'removed' => count($done['removed']),
            'returned' => count($done['returned']),
            'left' => $done['left'],
            'kept' => [],
        ];

        return new PutBackTold($counts, ['run' => $run->id] + $counts, $lines, $isWhole);
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
