<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Disks\MachineTree;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\UnableToRead;

/** The disks of an order at its point: what is read for them, from where, and what nobody can give back. */
final class PlannedDisks
{
    /** @var array<string, DiskOfPoint> by name: those that the point has */
    public readonly array $disks;

    /** @var array<string, int>|null disk => bytes of its blocks that are no zeros */
    private ?array $bytes = null;

    /** @param  list<string>  $names */
    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly array $names,
        private readonly CopyRule $copies,
    ) {
        $disks = [];
        foreach ($names as $name) {
            $of = DiskOfPoint::of($points, $point, $name, $copies);
            if ($of !== null) {
                $disks[$name] = $of;
            }
        }
        $this->disks = $disks;
    }

    /**
     * From which copies its images are read: those that can be, and of each set only the disks of the order.
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public function reading(?CopyRule $rule = null): ReadingOfSets
    {
        $bytes = $parts = [];
        foreach ($this->disks as $disk) {
            $unreadable = $disk->unreadable();
            foreach (array_diff_key($disk->chain, $unreadable) as $set) {
                $bytes[$set->id] = null;
                $parts[$set->id][] = $disk->partOf($set);
            }
        }

        return ReadingOfSets::for($this->points, $bytes, $rule ?? $this->copies, $parts);
    }

    /**
     * @return array<string, int> disk => bytes that are written of it: the rest are holes
     *
     * @throws UnableToRead
     */
    public function bytes(): array
    {
        if ($this->bytes === null) {
            $this->bytes = [];
            foreach ($this->disks as $name => $disk) {
                $blocks = 0;
                foreach ($disk->plan()->pieces() as [, , $held]) {
                    $blocks += count($held);
                }
                $this->bytes[$name] = $blocks * Blocks::BYTES;
            }
        }

        return $this->bytes;
    }

    /** @return list<string> sets that are needed and lie on cartridges alone */
    public function onlyOnTape(): array
    {
        $names = [];
        foreach ($this->disks as $disk) {
            array_push($names, ...$disk->images()->onlyOnTape());
        }

        return array_values(array_unique($names));
    }

    /** Bytes of the disks, zeros and all. */
    public function sizes(): int
    {
        return array_sum(array_map(fn (DiskOfPoint $disk): int => $disk->plan()->size(), $this->disks));
    }

    /** A disk at another set of the workload, of the same history, of which all is known. */
    public function at(string $set, string $disk): ?DiskOfPoint
    {
        $outline = $this->points->set($set);
        $isOfHistory = $outline !== null
            && $this->points->model($outline)->history_id === $this->points->model($this->point)->history_id;
        $of = $isOfHistory ? DiskOfPoint::of($this->points, $outline, $disk) : null;

        return $of?->hasBottom === true && $of->plan()->size() === $this->disks[$disk]->plan()->size() ? $of : null;
    }

    /** What lies in all disks of the point. */
    public function tree(): MachineTree
    {
        return new MachineTree($this->points, $this->point, $this->copies);
    }

    /** @return array<string, int> disk => blocks that nobody can give back, where there are some */
    public function lost(): array
    {
        return array_filter(array_map(fn (DiskOfPoint $disk): int => $disk->lostBlocks(), $this->disks));
    }

    /**
     * @param  bool  $part  whether what cannot be had may be left out
     * @return list<string> what stands in the way
     *
     * @throws UnableToRead
     */
    public function blockers(bool $part): array
    {
        $blockers = [];
        foreach (array_diff($this->names, array_keys($this->disks)) as $disk) {
            $blockers[] = "{$this->point->name} has no disk $disk.";
        }
        foreach ($part ? [] : $this->lost() as $name => $blocks) {
            $blockers[] = sprintf(
                '%s of the disk %s cannot be given back at this point%s. It can be had in part: then they are zeros, and listed.',
                Words::count($blocks, 'block'),
                $name,
                self::because($this->disks[$name]),
            );
        }

        return $blockers;
    }

    private static function because(DiskOfPoint $disk): string
    {
        $unreadable = $disk->unreadable();

        return $unreadable === []
            ? ', since what it rests on is not known'
            : ', since no copy of '.implode(', ', array_slice($unreadable, 0, 3)).' can be read';
    }

    /** Why blocks were missing that were read. */
    public static function whyMissing(DiskOfPoint $disk, BlockReading $reading): string
    {
        $why = [];
        foreach ($reading->lost as $level => $because) {
            $why[] = "{$disk->chain[$level]->name} $because";
        }

        return $why === [] ? 'they are damaged, or no copy is there' : implode('; ', array_slice($why, 0, 5));
    }
}
