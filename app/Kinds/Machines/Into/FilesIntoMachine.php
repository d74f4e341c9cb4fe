<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Instance;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Run\CarriedRun;
use App\Kinds\Machines\Run\KeepsOutcome;
use App\Kinds\Machines\Run\MachineLock;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Symfony\Component\Filesystem\Filesystem;

/** A run that brings files of a point into a machine at a hypervisor, one at a time into one machine. */
abstract class FilesIntoMachine
{
    use KeepsOutcome;

    /** @var list<string> names of its steps, of which the first locks the machine, and the second attaches the media */
    protected const STEPS = [];

    protected Run $run;

    protected IntoOrder $order;

    protected Hypervisor $hypervisor;

    protected RunProgress $progress;

    protected MachineTree $tree;

    /** A folder of this machine, which goes with the run. */
    protected string $work;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    final public function __construct(private readonly ?Closure $also = null)
    {
    }

    /** From its third step on. */
    abstract protected function carry(RunLedger $ledger): void;

    /** What is so when it failed, as a sentence with a space before it. */
    abstract protected function whatWasDone(): string;

    final public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->order = IntoOrder::fromArray($run->plan);
        $ledger = new RunLedger($run);
        CarriedRun::carry($ledger, static::STEPS, function () use ($ledger): void {
            RunRefusal::check($this->run);
            $points = new Points($this->run->workload);
            $this->work = Instance::folder('tmp')."/machine-into-{$this->run->id}";
            $ledger->step(0, fn (): string => MachineLock::take($this->order->machine, $this->order->on));
            try {
                (new Filesystem)->remove($this->work);
                (new Filesystem)->mkdir($this->work, 0700);
                $this->begin($points, $ledger);
                $this->carry($ledger);
            } finally {
                (new Filesystem)->remove($this->work);
                $points->stores->release();
                MachineLock::free($this->order->machine, $this->order->on);
                $this->order->host()->lookIfItAnswers();
            }
        }, $this->whatWasDone(...));
    }

    private function begin(Points $points, RunLedger $ledger): void
    {
        $point = $points->sets[$this->run->set_id];
        $this->tree = new MachineTree($points, $point, $this->order->copies);
        $also = $this->also;
        $this->progress = new RunProgress($this->run, $also === null ? null : fn (int $files, int $bytes) => $also(Words::size($bytes)));
        $disks = array_map(fn (string $path): string => $this->tree->find($path)[0]->disk, $this->order->paths);
        $planned = new PlannedDisks($points, $point, array_values(array_unique($disks)), $this->order->copies);
        $ledger->step(1, fn (): string => CarriedRun::attach($this->run, $planned->reading()));
        $this->hypervisor = $this->order->host()->open();
    }
}
