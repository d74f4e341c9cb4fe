<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\NewMachineStep;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Words;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\DiskDifference;

/** Of a machine that is there and off only what is not as it was: found, set aside, and written back. */
final class ChangedBlocks extends WayAtHypervisor
{
    protected const STEPS = ['find what changed', 'write it back', 'read and check the disks', NewMachineStep::START];

    /** @var array<string, BlockReading> */
    private array $readings = [];

    /** Bytes of the machine's disks that were read to find what differs, and disks of which a mark told where. */
    private int $read = 0;

    private int $byMark = 0;

    /** @var array<string, int> disk => bytes that were written back */
    private array $written = [];

    /** @var array<string, array<int, true>> disk => blocks that could not be had, and are zeros */
    private array $missing = [];

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $isDone = $this->isPlaced() && is_array($this->recalled('brought'));
        $ledger->step($first, fn (): string => $isDone ? 'found before' : $this->find());
        $ledger->step($first + 1, fn (): string => $isDone ? 'written before' : $this->writeBack());
        $brought = [];
        $ledger->step($first + 2, function () use (&$brought, $isDone): string {
            $brought = $isDone
                ? array_map(BroughtDisk::fromArray(...), array_values((array) $this->recalled('brought')))
                : $this->checkAll();

            return $isDone ? 'checked before' : 'every block of '.Words::count(count($brought), 'disk');
        });

        return new PlacementOutcome($brought, [...self::checksOf($brought), ...$this->started($ledger, $first + 3)], true);
    }

    /** @return list<BroughtDisk> */
    private function checkAll(): array
    {
        $brought = [];
        foreach ($this->planned->disks as $name => $disk) {
            $blocks = $this->check($this->order->machine, $name, $this->missing[$name]);
            $missing = array_keys($this->missing[$name]);
            $brought[] = BroughtDisk::of($disk, $this->readings[$name], $this->written[$name], $blocks, count($missing), $missing);
            $this->progress->advanced(1, 0);
        }
        $this->mark($this->order->machine, array_keys($this->planned->disks));
        $this->remember(placed: true, brought: array_map(fn (BroughtDisk $disk): array => $disk->toArray(), $brought));

        return $brought;
    }

    /** What is there now of the blocks that differ goes into an image of each disk first: nothing is written before all of that is kept. */
    private function find(): string
    {
        $this->present();
        $aside = new BlocksAside($this->run);
        $found = 0;
        foreach ($this->planned->disks as $name => $disk) {
            $this->begins();
            $aside->has($name) || $this->compare($disk, $aside);
            $found += $aside->count($name);
        }
        $this->remember(kept: true);

        $how = $this->byMark === count($this->planned->disks) ? 'by what was marked as changed' : 'by comparing';

        return ($found === 0 ? 'nothing differs' : Words::count($found, 'block').' differ, and are kept').
            "; found $how, ".
            Words::size($this->read).
            ' read';
    }

    /** Where a mark tells what changed since one of its sets, only that is read, and what is another at that set than at the point. */
    private function compare(DiskOfPoint $disk, BlocksAside $aside): void
    {
        [$mark, $known] = $this->marked($disk->disk);
        $work = function (NbdDisk $now) use ($disk, $aside, $mark, $known): void {
            $changed = $mark === null ? [] : $now->changed();
            $difference = new DiskDifference($disk->plan(), $now, $now->held(), $known?->plan(), $changed, $this->tell(...));
            $aside->keep($disk->disk, $disk->plan()->size(), $difference->blocks());
            $this->read += $difference->read;
            $mark === null || $this->byMark++;
        };
        $this->withDisk($this->order->machine, $disk->disk, false, $work, $mark);
    }

    /** @return array{string|null, DiskOfPoint|null} a mark of the disk that can be believed, and the disk as it was when that was set */
    private function marked(string $disk): array
    {
        foreach ($this->hypervisor->marks($this->order->machine, $disk) as $mark) {
            $known = $this->planned->at($this->setOf($mark), $disk);
            if ($known !== null) {
                return [$mark, $known];
            }
        }

        return [null, null];
    }

    /** The set that a mark was set at: its name, or that of a run which left the disk as it was at one. */
    private function setOf(string $mark): string
    {
        $run = preg_match('/^kaiseki-run-(\d+)$/D', $mark, $of) === 1 ? Run::query()->find((int) $of[1]) : null;
        $isAtIt = $run !== null && $run->workload_id === $this->run->workload_id && ($run->outcome['missing'] ?? 1) === 0;

        return $isAtIt ? (string) $run->set_name : $mark;
    }

    private function writeBack(): string
    {
        $aside = new BlocksAside($this->run);
        $this->refuseMissing($aside);
        foreach ($this->planned->disks as $name => $disk) {
            $this->written[$name] = 0;
            if ($aside->count($name) > 0) {
                $this->remember(begun: true);
                $this->withDisk(
                    $this->order->machine,
                    $name,
                    true,
                    fn (NbdDisk $to) => $this->writeDisk($disk, $aside->numbers($name), $to),
                );
            }
        }

        return Words::size(array_sum($this->written)).' written';
    }

    /** Whatever will be written is read once before anything is: what cannot be had is known then. */
    private function refuseMissing(BlocksAside $aside): void
    {
        $why = [];
        foreach ($this->planned->disks as $name => $disk) {
            $this->readings[$name] = $disk->reading();
            $this->missing[$name] = [];
            foreach ($disk->plan()->only($aside->numbers($name)) as $number => $block) {
                if ($block !== null && $this->readings[$name]->bytes([$number => $block])[$number] === null) {
                    $this->missing[$name][$number] = true;
                    $why[$name] = PlannedDisks::whyMissing($disk, $this->readings[$name]);
                }
            }
        }
        if ($why !== [] && ! $this->order->part) {
            $blocks = Words::count(array_sum(array_map(count(...), $this->missing)), 'block');
            throw CannotBring::because(
                "$blocks could not be read from any copy: ".implode('; ', $why).'. The rest can be had in part.',
            );
        }
    }

    /** @param  iterable<int>  $numbers  in order */
    private function writeDisk(DiskOfPoint $disk, iterable $numbers, NbdDisk $to): void
    {
        foreach ($disk->plan()->only($numbers) as $number => $block) {
            $bytes = $block === null ? null : $this->readings[$disk->disk]->bytes([$number => $block])[$number];
            $length = Blocks::length($number, $to->size());
            $bytes === null ? $to->zero($number * Blocks::BYTES, $length) : $to->write($number * Blocks::BYTES, $bytes);
            $this->written[$disk->disk] += $length;
        }
    }

    public function whatWasDone(): string
    {
        return match (true) {
            $this->isPlaced() => ' The machine is as it was at the point.',
            $this->recalled('begun') === true => ' Some blocks are written back: do not start it so, but carry the run on, or put it back.',
            default => ' The machine is as it was.',
        };
    }
}
