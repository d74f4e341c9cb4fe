<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Runs\RunLedger;
use App\Words;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\DiskDifference;

/** Of a machine that is there and off only what is not as it was: found, set aside, and written back. */
final class ChangedBlocks extends WayAtHypervisor
{
    protected const STEPS = ['find what changed', 'write it back', 'read and check the disks', 'start it'];

    /** @var array<string, BlockReading> */
    private array $readings = [];

    /** @var array<string, int> disk => bytes that were written back */
    private array $written = [];

    /** @var array<string, array<int, true>> disk => blocks that could not be had, and are zeros */
    private array $missing = [];

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $ledger->step($first, fn (): string => $this->find());
        $ledger->step($first + 1, fn (): string => $this->writeBack());
        $brought = [];
        $ledger->step($first + 2, function () use (&$brought): string {
            foreach ($this->planned->disks as $name => $disk) {
                $blocks = $this->check($this->order->machine, $name, $this->missing[$name]);
                $missing = array_keys($this->missing[$name]);
                $brought[] = BroughtDisk::of($disk, $this->readings[$name], $this->written[$name], $blocks, count($missing), $missing);
                $this->progress->advanced(1, 0);
            }
            $this->mark($this->order->machine, array_keys($this->planned->disks));
            $this->remember(placed: true);

            return 'every block of '.Words::count(count($brought), 'disk');
        });

        return new PlacementOutcome($brought, [...self::checksOf($brought), ...$this->started($ledger, $first + 3)], true);
    }

    /** What is there now of the blocks that differ goes into an image of each disk first: nothing is written before all of that is kept. */
    private function find(): string
    {
        $this->present();
        $aside = new BlocksAside($this->run);
        $found = 0;
        foreach ($this->planned->disks as $name => $disk) {
            $this->begins();
            if (! $aside->has($name)) {
                $this->withDisk(
                    $this->order->machine,
                    $name,
                    false,
                    fn (NbdDisk $now) => $aside->keep(
                        $name,
                        $disk->plan()->size(),
                        (new DiskDifference($disk->plan(), $now, $now->held(), progress: $this->tell(...)))->blocks(),
                    ),
                );
            }
            $found += $aside->count($name);
        }
        $this->remember(kept: true);

        return $found === 0 ? 'nothing differs' : Words::count($found, 'block').' differ, and are kept';
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
            $this->recalled('placed') === true => ' The machine is as it was at the point.',
            $this->recalled('begun') === true => ' Some blocks are written back: carry the run on, or put it back. It must not be started so.',
            default => ' The machine is as it was.',
        };
    }
}
