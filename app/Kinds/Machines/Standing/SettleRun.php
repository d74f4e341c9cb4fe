<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Run\WayAtHypervisor;
use App\Runs\RunLedger;
use App\Sets\Points;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\UnwrittenCheck;
use Kaiseki\Core\Proof\CheckLine;

/**
 * Settles a machine that stands, while it runs: what it still reads from the sets comes to its own storage, disk by disk. Then each block
 * that it has not written itself is compared with what it was at the point, and nobody serves its disks any more. One that was killed is
 * carried out again; what has come stays.
 */
final class SettleRun extends StandingRun
{
    protected const STEPS = [
        'lock the machine', 'bring its disks over', 'read and check what came', 'give it its name', 'serve its disks no more',
    ];

    protected const LEAVES = ' What has come stays; the machine goes on.';

    /** Seconds between two looks. */
    private const LOOKS = 0.25;

    /** Bytes that were told. */
    private int $told = 0;

    protected function order(): SettleOrder
    {
        return SettleOrder::fromArray($this->run->plan);
    }

    protected function work(RunLedger $ledger, Points $points): array
    {
        $planned = $this->planned($points);
        $this->run->update(['files_total' => count($planned->disks), 'bytes_total' => 2 * $planned->sizes()]);
        $ledger->step(1, fn (): string => $this->bring($planned));
        $checks = [];
        $ledger->step(2, function () use ($planned, &$checks): string {
            $checks = $this->check($planned);

            return implode('; ', array_column($checks, 'detail'));
        });
        $ledger->step(3, fn (): string => $this->name());
        $ledger->step(4, fn (): string => $this->leave());

        return $checks;
    }

    protected function outcome(): array
    {
        return ['settled' => $this->order->placed()->disks, 'bytes' => intdiv((int) $this->run->bytes_total, 2)];
    }

    protected function ended(): string
    {
        return 'is settled';
    }

    /** What it is called there now. */
    private function machine(): string
    {
        $isNamed = ($this->run->outcome['named'] ?? false) === true;

        return $isNamed ? $this->order->machine : $this->standing->machine;
    }

    private function bring(PlannedDisks $planned): string
    {
        $came = 0;
        foreach ($planned->disks as $name => $disk) {
            try {
                $this->bringDisk($name, $came);
            } catch (UnableToRestore $stopped) {
                $this->hypervisor->stopSettling($this->machine(), $name);
                throw $stopped;
            }
            $came += $disk->plan()->size();
            $this->tell($came);
        }

        $moved = count($this->order()->storages);

        return Words::count(count($planned->disks), 'disk').', while it ran'.($moved === 0 ? '' : "; $moved to another storage");
    }

    private function bringDisk(string $disk, int $before): void
    {
        $limit = null;
        $goes = $this->order()->storages[$disk] ?? null;
        while (true) {
            $machine = $this->hypervisor->machine($this->machine())
                ?? throw CannotBring::because("There is no machine {$this->machine()} at {$this->order->on} any more.");
            $far = $this->hypervisor->settling($this->machine())[$disk] ?? null;
            if ($far === null && $machine->storages[$disk] === ($goes ?? $machine->storages[$disk])) {
                return;
            }
            $machine->isRunning() || throw CannotBring::because("{$this->machine()} is off: start it, and go on with this run.");
            if ($far?->isReady) {
                $this->hypervisor->changeOver($this->machine(), $disk);

                continue;
            }
            $wanted = (int) $this->standing->refresh()->limit;
            if ($wanted !== $limit) {
                $this->hypervisor->settle($this->machine(), $disk, $wanted, $goes);
                $limit = $wanted;

                continue;
            }
            $far?->failure === null || throw CannotBring::because("The disk $disk does not come over: {$far->failure}.");
            $this->tell($before + ($far->done ?? 0));
            usleep((int) (1e6 * self::LOOKS));
        }
    }

    private function tell(int $bytes): void
    {
        $this->progress->advanced(0, $bytes - $this->told);
        $this->told = $bytes;
    }

    /** @return list<CheckLine> */
    private function check(PlannedDisks $planned): array
    {
        $before = $this->told;
        $since = WayAtHypervisor::markOf($this->standing->run);
        $moment = $this->hypervisor->beginMoment($this->machine(), array_keys($planned->disks), "kaiseki-settled-{$this->run->id}");
        $checks = [];
        try {
            foreach ($planned->disks as $name => $disk) {
                $isKnown = ($moment->since[$name] ?? null) === $since;
                $checks[] = $isKnown
                    ? $this->compared($planned, $name, NbdDisk::open($moment->doors[$name], $since), $before)
                    : new CheckLine(
                        "what came of the disk $name is as it was at the point",
                        CheckLine::NOT_SEEN,
                        'what the machine has written since is not known: its power was cut meanwhile, or a set was made of it',
                    );
                $before += $disk->plan()->size();
            }
        } finally {
            $this->hypervisor->endMoment($this->machine(), false);
        }

        return $checks;
    }

    private function compared(PlannedDisks $planned, string $name, NbdDisk $disk, int $before): CheckLine
    {
        $tell = fn (int $bytes) => $this->tell($before + $bytes);
        $check = new UnwrittenCheck($planned->disks[$name]->plan(), $disk, $disk->changed(), $tell, $disk->held());
        $isRight = $check->isRight();
        $disk->close();
        $this->progress->advanced(1, 0);

        return CheckLine::of(
            "every block of the disk $name that the machine has not written itself is as it was at the point",
            $isRight,
            Words::count($check->compared, 'block').' compared, '.Words::count($check->written, 'block').' written since'.
                ($isRight ? '' : ', '.Words::count($check->wrong, 'block').' not as they were'),
        );
    }

    private function name(): string
    {
        if ($this->machine() === $this->order->machine) {
            return 'done before';
        }
        $this->hypervisor->machine($this->order->machine) === null || throw CannotBring::because(
            "There is a machine {$this->order->machine} at {$this->order->on} now: name that one otherwise, and go on with this run.",
        );
        $this->hypervisor->rename($this->standing->machine, $this->order->machine);
        $this->run->update(['outcome' => ['named' => true] + ($this->run->outcome ?? [])]);

        return $this->order->machine;
    }

    private function leave(): string
    {
        $left = $this->hypervisor->machine($this->order->machine)->sources ?? [];
        $left === [] || throw CannotBring::because('It still reads '.implode(', ', $left).' from its sets.');
        $this->standing->end(Standing::SETTLED);

        return 'it stands on its own';
    }
}
