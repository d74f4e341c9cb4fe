<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Models\Run;
use App\Words;
use Kaiseki\Core\Hypervisor\DiskSink;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\DiskCopy;

/** A way that makes a machine with disks of the point under a name of the run, and checks it, before anything else is touched. */
abstract class NewMachine extends WayAtHypervisor
{
    /** @var list<BroughtDisk> */
    protected array $brought = [];

    /** @var array<string, DiskCopy> */
    private array $copies = [];

    final protected function made(): string
    {
        return self::nameOfMade($this->run, $this->order->machine);
    }

    /** Its name while it is made; of nobody else. */
    public static function nameOfMade(Run $run, string $machine): string
    {
        return substr($machine, 0, 60).".run-{$run->id}";
    }

    final protected function isMade(): bool
    {
        return $this->recalled('made') === true;
    }

    final protected function make(MachineSettings $settings): string
    {
        if ($this->isMade()) {
            return 'made before';
        }
        $this->clear();
        $this->hypervisor->create($settings->with(name: $this->made()), $this->order->storages);

        return count($settings->disks) === 0 ? 'without disks' : implode(', ', array_map(
            fn (string $disk): string => "$disk on {$this->order->storages[$disk]}",
            array_keys($this->order->storages),
        ));
    }

    final protected function write(): string
    {
        if ($this->isMade()) {
            return 'written before';
        }
        $missing = 0;
        foreach ($this->planned->disks as $name => $disk) {
            $this->copies[$name] = $disk->copy($this->tell(...));
            $this->begins();
            $this->withDisk($this->made(), $name, true, fn (NbdDisk $to) => $this->copies[$name]->to(new DiskSink($to)));
            $missing += $this->copies[$name]->missingCount;
        }
        if ($missing > 0 && ! $this->order->part) {
            $why = array_map(
                fn (string $name): string => PlannedDisks::whyMissing($this->planned->disks[$name], $this->copies[$name]->reading),
                array_keys(array_filter($this->copies, fn (DiskCopy $copy): bool => $copy->missingCount > 0)),
            );
            throw CannotBring::because(Words::count($missing, 'block').' could not be read from any copy: '.implode('; ', $why).
                '. The rest can be had in part.');
        }

        return Words::size(array_sum(array_map(fn (DiskCopy $copy): int => $copy->bytes, $this->copies))).' written, the rest is zeros';
    }

    final protected function checkAll(): string
    {
        if ($this->isMade()) {
            $kept = $this->recalled('brought');
            $this->brought = array_map(BroughtDisk::fromArray(...), array_values(is_array($kept) ? $kept : []));

            return 'checked before';
        }
        foreach ($this->copies as $name => $copy) {
            $blocks = $this->check($this->made(), $name, array_fill_keys($copy->missing, true));
            $disk = $this->planned->disks[$name];
            $this->brought[] = BroughtDisk::of($disk, $copy->reading, $copy->bytes, $blocks, $copy->missingCount, $copy->missing);
            $this->progress->advanced(1, 0);
        }
        $this->mark($this->made(), array_keys($this->copies));
        $this->remember(made: true, brought: array_map(fn (BroughtDisk $disk): array => $disk->toArray(), $this->brought));

        return 'every block of '.Words::count(count($this->brought), 'disk');
    }

    /** What an attempt before, or this one, left half made. */
    private function clear(): void
    {
        $this->hypervisor->machine($this->made()) === null || $this->hypervisor->delete($this->made());
    }

    final public function release(): void
    {
        try {
            $this->isMade() || $this->clear();
        } catch (HypervisorFailure) {
            return; // it does not answer now: the run that is carried out again clears it, or who clears up after it
        }
    }
}
