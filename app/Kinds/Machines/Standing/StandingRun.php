<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Run\CarriedRun;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\MachineProof;
use App\Kinds\Machines\Run\PlacementOutcome;
use App\Kinds\Machines\Run\PlacementRun;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Proof\CheckLine;

/** Carries out what was decided about a machine that stands; one that was killed is carried out again, and what was done stays. */
abstract class StandingRun
{
    /** @var list<string> names of its steps, of which the first locks the machine */
    protected const STEPS = [];

    /** What is so when it failed, as a sentence with a space before it. */
    protected const LEAVES = '';

    protected Run $run;

    protected StandingOrder $order;

    protected Standing $standing;

    protected Hypervisor $hypervisor;

    protected RunProgress $progress;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    final public function __construct(private readonly ?Closure $also = null)
    {
    }

    abstract protected function order(): StandingOrder;

    /** @return list<CheckLine> */
    abstract protected function work(RunLedger $ledger, Points $points): array;

    /** @return array<string, mixed> what its outcome has beside what all have */
    abstract protected function outcome(): array;

    /** @return array<string, mixed> what is signed beside what all have */
    protected function evidence(): array
    {
        return [];
    }

    /** What became of the machine: "is settled". */
    abstract protected function ended(): string;

    final public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->order = $this->order();
        $ledger = new RunLedger($run);
        CarriedRun::carry($ledger, static::STEPS, fn () => $this->begin($ledger), fn (): string => static::LEAVES);
    }

    private function begin(RunLedger $ledger): void
    {
        RunRefusal::check($this->run);
        $this->standing = $this->order->standing();
        $placed = $this->order->placed();
        $ledger->step(0, fn (): string => MachineLock::take($this->order->machine, $this->order->on));
        $points = new Points($this->run->workload);
        try {
            $this->hypervisor = $placed->host()->open();
            $also = $this->also;
            $tell = $also === null ? null : fn (int $files, int $bytes) => $also(Words::size(intdiv($bytes, 2)));
            $this->progress = new RunProgress($this->run, $tell);
            $this->finish($ledger, $this->work($ledger, $points));
        } finally {
            $points->stores->release();
            MachineLock::free($this->order->machine, $this->order->on);
            PlacementRun::lookAgain($placed);
        }
    }

    final protected function planned(Points $points): PlannedDisks
    {
        $placed = $this->order->placed();

        return new PlannedDisks($points, $points->sets[$this->run->set_id], $placed->disks, $placed->copies);
    }

    /** @param  list<CheckLine>  $checks */
    private function finish(RunLedger $ledger, array $checks): void
    {
        [$run, $order] = [$this->run->refresh(), $this->order];
        $isRight = (new PlacementOutcome([], $checks, false))->isRight();
        $outcome = $this->outcome() + [
            'kind' => 'machine', 'way' => $order::way(), 'on' => $order->on, 'machine' => $order->machine,
            'disks' => [], 'bytes' => 0, 'missing' => 0, 'checks' => CheckLine::kept($checks), 'right' => $isRight,
        ] + ($run->outcome ?? []);
        $run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now()]);
        (new MachineProof($run->refresh(), $order->sentence))->write('a machine', [
            'hypervisor' => $order->on, 'machine' => $order->machine, 'way' => $order::way(), 'stood_up_by' => $order->stands,
        ] + $this->evidence(), $outcome);
        $ledger->tell("Run {$run->id} ended: {$order->machine} at {$order->on} {$this->ended()}, ".
            ($isRight ? 'all right.' : 'and not all of it is as it should be.'), 'answer');
    }
}
