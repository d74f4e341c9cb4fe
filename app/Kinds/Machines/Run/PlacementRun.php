<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\MeasuredRates;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Order\WayTimes;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\Settle;
use App\Kinds\Machines\Standing\SettleWish;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Proof\CheckLine;

/** Brings a machine back at a hypervisor, in the way of its order; one that was killed is simply carried out again. */
final class PlacementRun
{
    private Run $run;

    private PlacementOrder $order;

    private ?WayAtHypervisor $way = null;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->order = PlacementOrder::fromArray($run->plan);
        $ledger = new RunLedger($run);
        CarriedRun::carry(
            $ledger,
            $this->steps(),
            function () use ($ledger): void {
                RunRefusal::check($this->run);
                $points = new Points($this->run->workload);
                $ledger->step(0, fn (): string => MachineLock::take($this->order->machine, $this->order->on));
                try {
                    $this->way = $this->begin($points, $ledger);
                    $this->finish($ledger, $this->bring($ledger, $this->way));
                } finally {
                    $this->way?->release();
                    $points->stores->release();
                    MachineLock::free($this->order->machine, $this->order->on);
                    self::lookAgain($this->order);
                }
            },
            fn (): string => $this->way?->whatWasDone() ?? ' Nothing was changed.',
        );
        $this->order->background && $this->settle();
    }

    /** @return list<string> */
    private function steps(): array
    {
        return [
            'lock the machine', 'attach the media',
            ...$this->order->before === [] ? [] : ['run the command before'],
            ...WayAtHypervisor::steps($this->order->way),
            ...$this->order->after === [] ? [] : ['run the command after'],
        ];
    }

    private function bring(RunLedger $ledger, WayAtHypervisor $way): PlacementOutcome
    {
        $commands = new CommandsAround($this->run);
        $first = 2;
        if ($this->order->before !== []) {
            $ledger->step($first++, fn (): string => $commands->before($this->order->before));
        }
        $came = $way->carryOut($ledger, $first);
        if ($this->order->after !== []) {
            $ledger->step(count($this->steps()) - 1, fn (): string => $commands->after($this->order->after));
        }

        return new PlacementOutcome($came->disks, [...$came->checks, ...$commands->checks()], $came->setsAside);
    }

    /** What stands, and is right, is brought to its own storage at once. */
    private function settle(): void
    {
        $standing = Standing::ofRun($this->run->refresh());
        if ($this->run->state === 'done' && ($this->run->outcome['right'] ?? false) === true && $standing?->settled_by === null) {
            $standing === null || Settle::begin((new Settle($standing))->order(new SettleWish($this->order->limit), $this->run->user));
        }
    }

    /** What the pages show of the hypervisor is as it is now. */
    public static function lookAgain(PlacementOrder $order): void
    {
        try {
            $order->host()->lookIfItAnswers();
        } catch (CannotBring) {
            return; // it is not known any more
        }
    }

    private function begin(Points $points, RunLedger $ledger): WayAtHypervisor
    {
        $planned = new PlannedDisks($points, $points->sets[$this->run->set_id], $this->order->disks, $this->order->copies);
        $blockers = $planned->blockers($this->order->part);
        $blockers === [] || throw CannotBring::because(implode(' ', $blockers));
        $isGone = $this->order->host()->open()->machine($this->order->machine) === null;
        $times = WayTimes::of($this->order, $planned, $isGone, MeasuredRates::now(), Standing::others($this->run));
        $this->run->update(['estimate' => $this->run->estimate ?? $times->estimate()]);
        $ledger->step(1, fn (): string => $planned->disks === []
            ? 'nothing has to be read'
            : CarriedRun::attach($this->run, $planned->reading()));
        $this->run->update(['files_total' => count($planned->disks), 'bytes_total' => 2 * $planned->sizes()]);
        $also = $this->also;
        $tell = $also === null ? null : fn (int $files, int $bytes) => $also(Words::size(intdiv($bytes, 2)));

        return WayAtHypervisor::of($this->run, $this->order, $planned, new RunProgress($this->run, $tell, $this->order->limit));
    }

    private function finish(RunLedger $ledger, PlacementOutcome $came): void
    {
        $run = $this->run;
        $missing = $came->missing();
        $outcome = [
            'kind' => 'machine',
            'way' => $this->order->way->value,
            'on' => $this->order->on,
            'machine' => $this->order->machine,
            'disks' => array_map(fn (BroughtDisk $disk): array => $disk->toArray(), $came->disks),
            'bytes' => array_sum(array_map(fn (BroughtDisk $disk): int => $disk->written, $came->disks)),
            'missing' => $missing,
            'checks' => CheckLine::kept($came->checks),
            'right' => $came->isRight(),
        ] + ($run->refresh()->outcome ?? []);
        $run->update([
            'state' => 'done',
            'outcome' => $outcome,
            'ended_at' => now(),
            'files_done' => count($came->disks),
            'set_aside_until' => $came->setsAside ? now()->addDays(SetAsides::DAYS) : null,
        ]);
        $this->order->follow === null || Following::begin($run, $this->order);
        (new MachineProof($run->refresh(), $this->order->sentence))->write('a machine', [
            'hypervisor' => $this->order->on,
            'machine' => $this->order->machine,
            'way' => $this->order->way->value,
            'settings' => $outcome['settings'] ?? null,
            'set_aside' => $outcome['aside'] ?? null,
            'started' => $outcome['boot']['stages'] ?? null,
        ], $outcome);
        $ledger->tell(sprintf(
            'Run %d ended: %s at %s %s, %s.',
            $run->id,
            $this->order->machine,
            $this->order->on,
            $this->order->way === MachineWay::StandUp ? 'stands on its sets' : 'is back',
            $came->isRight() ? 'all right' : ($missing > 0 ? Words::count($missing, 'block').' missing' : 'not all of it as it should be'),
        ), 'answer');
    }
}
