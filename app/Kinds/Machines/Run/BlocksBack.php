<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Models\Run;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\NbdDisk;

/** Puts back what a run wrote over in a machine that is off. */
final readonly class BlocksBack
{
    public function __construct(private Run $run, private Hypervisor $hypervisor, private string $machine)
    {
    }

    /**
     * Only onto what the run left: over anything that was written since, it would make of two states of a file system a third.
     *
     * @param  list<string>  $disks
     */
    public function write(array $disks): PutBackDone
    {
        $aside = new BlocksAside($this->run);
        $disks = array_values(array_filter($disks, $aside->has(...)));
        $isPlaced = ($this->run->outcome['placed'] ?? false) === true;
        $done = new PutBackDone;
        foreach ($isPlaced ? $this->changedSince($disks) : [] as $disk) {
            $done->leave($disk, 'it was written to since, and two states of it would be mixed');
        }
        foreach ($done->left === [] ? $disks : [] as $disk) {
            NbdDisk::with($this->hypervisor, $this->machine, $disk, true, fn (NbdDisk $to) => $aside->writeTo($disk, $to));
            $done->returned[] = "the disk $disk as it was";
        }
        $done->left === [] && $aside->remove();

        return $done;
    }

    /**
     * @param  list<string>  $disks
     * @return list<string> those that changed since the run, or of which nobody knows
     */
    public function changedSince(array $disks): array
    {
        $mark = WayAtHypervisor::markOf($this->run);
        $changed = [];
        foreach ($this->hypervisor->machine($this->machine) === null ? [] : $disks as $disk) {
            $isKnown = in_array($mark, $this->hypervisor->marks($this->machine, $disk), true);
            if (! $isKnown || NbdDisk::with($this->hypervisor, $this->machine, $disk, false, self::hasChanged(...), $mark)) {
                $changed[] = $disk;
            }
        }

        return $changed;
    }

    private static function hasChanged(NbdDisk $disk): bool
    {
        foreach ($disk->changed() as $area) {
            return true;
        }

        return false;
    }
}
