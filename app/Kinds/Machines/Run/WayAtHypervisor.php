<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Words;
use Closure;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\DiskCheck;
use Kaiseki\Core\Proof\CheckLine;

/** One way of bringing a machine back at a hypervisor, step by step. What all of them have stands here. */
abstract class WayAtHypervisor
{
    use KeepsOutcome;

    protected readonly Hypervisor $hypervisor;

    private int $told = 0;

    final protected function __construct(
        protected readonly Run $run,
        protected readonly PlacementOrder $order,
        protected readonly PlannedDisks $planned,
        protected readonly RunProgress $progress,
    ) {
        $this->hypervisor = $order->host()->open();
    }

    public static function of(Run $run, PlacementOrder $order, PlannedDisks $planned, RunProgress $progress): self
    {
        $class = self::classOf($order->way);

        return new $class($run, $order, $planned, $progress);
    }

    /** @return class-string<self> */
    private static function classOf(MachineWay $way): string
    {
        return match ($way) {
            MachineWay::Whole => WholeMachine::class,
            MachineWay::StandUp => StoodUp::class,
            MachineWay::Disks => SomeDisks::class,
            MachineWay::Rollback => ChangedBlocks::class,
            MachineWay::Configuration => OnlySettings::class,
        };
    }

    /** @return list<string> names of its steps */
    public static function steps(MachineWay $way): array
    {
        return self::classOf($way)::STEPS;
    }

    /** @var list<string> */
    protected const STEPS = [];

    /** @param  int  $first  the number of its first step */
    abstract public function carryOut(RunLedger $ledger, int $first): PlacementOutcome;

    /** For who is told that it failed: what stands there now, as a sentence with a space before it. */
    abstract public function whatWasDone(): string;

    /** What is there only for as long as this is at work. */
    public function release(): void
    {
    }

    /** Whether all was done before, but for starting it; since then it may run. */
    final protected function isPlaced(): bool
    {
        return $this->recalled('placed') === true;
    }

    /** The machine that stands there, off: ended if the order says so. */
    protected function present(): MachineSeen
    {
        $name = $this->order->machine;
        $machine = $this->hypervisor->machine($name) ?? throw CannotBring::because("There is no machine $name at {$this->order->on} now.");
        if ($machine->isRunning() && ! $this->isPlaced()) {
            $this->order->stopsIt || throw CannotBring::because("$name runs now, and must be off for this.");
            $this->order->shutsDown
                ? ShutDown::of($this->hypervisor, $name, $this->progress)
                : $this->hypervisor->stop($name, true);
        }

        return $machine;
    }

    /** When the run was ordered, as names of what is set aside say. */
    final protected function asideName(): string
    {
        return self::asideNameOf($this->run, $this->order->machine);
    }

    public static function asideNameOf(Run $run, string $machine): string
    {
        return substr($machine, 0, 60).'.before-'.$run->created_at->utc()->format('Ymd\THis\Z')."-run-{$run->id}";
    }

    /** What has the order's name there, if the order says so. */
    protected function setAside(): void
    {
        $aside = $this->asideName();
        if ($this->order->isAside && $this->hypervisor->machine($aside) === null) {
            $this->present();
            $this->remember(aside: $aside);
            $this->hypervisor->rename($this->order->machine, $aside);
        }
    }

    /**
     * @template T
     *
     * @param  Closure(NbdDisk): T  $work
     * @return T
     */
    protected function withDisk(string $machine, string $disk, bool $toWrite, Closure $work, ?string $mark = null): mixed
    {
        return NbdDisk::with($this->hypervisor, $machine, $disk, $toWrite, $work, $mark);
    }

    /**
     * Reads a disk again from its beginning to its end, and compares each block.
     *
     * @param  array<int, true>  $missing  numbers of blocks that are known to be missing
     * @return int how many were compared
     */
    protected function check(string $machine, string $disk, array $missing): int
    {
        return $this->withDisk($machine, $disk, false, function (NbdDisk $from) use ($disk, $missing): int {
            $this->begins();
            $check = DiskCheck::ofDisk($this->planned->disks[$disk]->plan(), $from, $missing, $this->tell(...), $from->held());
            $check->isRight() || throw CannotBring::because(
                "The disk $disk is not what it should be when it is read again, at ".$check->wrongAreas()->words().'.',
            );

            return $check->blocks;
        });
    }

    protected function begins(): void
    {
        $this->told = 0;
    }

    protected function tell(int $at): void
    {
        $this->progress->advanced(0, $at - $this->told);
        $this->told = $at;
    }

    /** What changed since is known by this mark, so that putting back does not take it along unasked. */
    public static function markOf(Run $run): string
    {
        return "kaiseki-run-{$run->id}";
    }

    /** @param  list<string>  $disks */
    protected function mark(string $machine, array $disks): void
    {
        foreach ($disks as $disk) {
            $this->hypervisor->mark($machine, $disk, self::markOf($this->run));
        }
    }

    /**
     * The last step of each way: starts it if that is asked for, and asks it who it is.
     *
     * @param  string|null  $machine  its name now, where that is not the order's
     * @return list<CheckLine>
     */
    protected function started(RunLedger $ledger, int $step, ?string $machine = null): array
    {
        $proof = $this->order->starts ? new BootProof(
            $this->hypervisor,
            $machine ?? $this->order->machine,
            Answer::of($this->run->workload),
            $this->planned->tree(),
            $this->progress,
        ) : null;
        $ledger->step($step, fn (): string => $proof?->run() ?? 'it was not asked for');
        $proof === null || $this->remember(boot: $proof->watch->account());

        return $proof === null ? [] : [$proof->check()];
    }

    /**
     * @param  list<BroughtDisk>  $disks
     * @return list<CheckLine>
     */
    protected static function checksOf(array $disks): array
    {
        $blocks = array_sum(array_map(fn (BroughtDisk $disk): int => $disk->blocks, $disks));
        $missing = array_sum(array_map(fn (BroughtDisk $disk): int => $disk->missing, $disks));

        return [
            CheckLine::of('every block of every disk that was brought, by digest, read again at the hypervisor', true, Words::count(
                $blocks,
                'block',
            ).' of 64 KiB'),
            CheckLine::of('every block was to be had', $missing === 0, $missing === 0 ? 'none is missing' : Words::count(
                $missing,
                'block',
            ).' are missing'),
        ];
    }

    /** That it is configured as was ordered, asked for again. */
    protected function settingsCheck(?string $machine = null, ?MachineSettings $ordered = null): CheckLine
    {
        $there = $this->hypervisor->machine($machine ?? $this->order->machine)?->settings;

        return self::configuredCheck($there, $ordered ?? $this->order->settings);
    }

    public static function configuredCheck(?MachineSettings $there, MachineSettings $ordered): CheckLine
    {
        $differences = $there === null ? ['it is not there'] : $there->differences($ordered);

        return CheckLine::of('the machine is configured as was ordered', $differences === [], implode('; ', $differences) ?: 'all of it');
    }
}
