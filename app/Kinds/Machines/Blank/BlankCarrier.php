<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Run\BlocksBack;
use App\Kinds\Machines\Run\CarrierAtHypervisor;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\PlacementCarrier;
use App\Kinds\Machines\Run\PutBackDone;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use App\Runs\RunLedger;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Runs that bring a machine onto a blank one at a hypervisor. */
final readonly class BlankCarrier extends CarrierAtHypervisor
{
    public function carryOut(Run $run): void
    {
        (new BlankRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        $outcome = $run->outcome ?? [];
        $waits = ($outcome['waits'] ?? false) === true && ! isset($outcome['switched_by']);

        return ($waits || ($outcome['placed'] ?? false) === true) && $run->put_back_at === null;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        (new RunLedger($run))->giveUp() || throw UnableToRestore::refused("Run {$run->id} is still at work.");
        $order = BlankOrder::fromArray($run->plan);
        $name = $order->settings->name;
        $hypervisor = $order->host()->open();
        $done = new PutBackDone;
        if (($run->outcome['placed'] ?? false) !== true) {
            return $this->endsWaiting($run, new BlankMachine($hypervisor, $run, $order));
        }
        MachineLock::take($name, $order->on);
        try {
            $machine = $hypervisor->machine($name);
            $machine?->isRunning() && throw UnableToRestore::refused("$name at {$order->on} runs: shut it down first.");
            $changed = $alsoChanged || $machine === null
                ? []
                : (new BlocksBack($run, $hypervisor, $name))->changedSince($order->settings->diskNames());
            $changed === [] || $done->leave($name, 'changed since: '.implode(', ', $changed));
            if ($changed === [] && $machine !== null) {
                $hypervisor->delete($name);
                $done->removed[] = "the machine $name";
            }
        } catch (HypervisorFailure $failure) {
            throw UnableToRestore::refused(ucfirst($failure->getMessage()).'.');
        } finally {
            MachineLock::free($name, $order->on);
            $order->host()->lookIfItAnswers();
        }

        return PlacementCarrier::told($run, $done);
    }

    /** One that waits for newer points goes, with all that was brought onto it. */
    private function endsWaiting(Run $run, BlankMachine $machine): PutBackTold
    {
        $one = Enrolment::query()->where('maker_id', $run->id)->whereNull('ended_at')->first();
        $one?->run !== null && ! $one->run->isOver() && throw UnableToRestore::refused("Run {$one->run_id} is at work on it.");
        $one?->end('it was put back');
        $done = new PutBackDone;
        try {
            $machine->remove();
            $done->removed[] = "the machine {$machine->name}";
        } catch (HypervisorFailure $failure) {
            throw UnableToRestore::refused(ucfirst($failure->getMessage()).'.');
        }

        return PlacementCarrier::told($run, $done);
    }

    /** Nothing stood there before. */
    public function clearAside(Run $run, ?User $by): void
    {
    }

    public function clearStaged(Run $run): void
    {
        $order = BlankOrder::fromArray($run->plan);
        (new BlankMachine($order->host()->open(), $run, $order))->remove();
    }

    public function touches(Run $run): Touched
    {
        $order = BlankOrder::fromArray($run->plan);

        return TouchedMachine::at($order->host(), $order->settings->name, false);
    }

    public function came(Run $run): string
    {
        $order = BlankOrder::fromArray($run->plan);

        return match (true) {
            $order->isDrill => 'all of it onto a blank machine, which is gone again',
            $order->follow !== null => "all of it onto a blank machine at {$order->on}, which waits for newer points",
            default => "{$order->settings->name} at {$order->on}, ".Words::size((int) ($run->outcome['bytes'] ?? 0)),
        };
    }

    public function howFar(Run $run): string
    {
        return $run->bytes_done > 0 ? Words::size($run->bytes_done) : '';
    }
}
