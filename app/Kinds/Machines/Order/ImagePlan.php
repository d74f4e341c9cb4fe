<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Machines;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\ImageFormat;
use Kaiseki\Core\UnableToRead;

/** What an order of images means at its point, and what stands in the way of it. */
final class ImagePlan
{
    /** @var array<string, DiskOfPoint> by name: those of the order that the point has */
    public readonly array $disks;

    /** @var array<string, int>|null disk => bytes of its blocks that are no zeros */
    private ?array $bytes = null;

    public function __construct(
        public readonly Points $points,
        public readonly SetOutline $point,
        public readonly MachineOrder $order,
    ) {
        $disks = [];
        foreach ($order->disks as $disk) {
            $of = DiskOfPoint::of($points, $point, $disk, $order->copies);
            if ($of !== null) {
                $disks[$disk] = $of;
            }
        }
        $this->disks = $disks;
    }

    /** With the order's own sentence, which is kept with its moment in UTC. */
    public static function of(Points $points, SetOutline $point, MachineOrder $order): self
    {
        return new self($points, $point, $order->withSentence(self::words($points, $point, $order, 'UTC')));
    }

    /**
     * From which copies its images are read: those that can be, and of each set only the disks of the order.
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public function reading(CopyRule $rule): ReadingOfSets
    {
        $bytes = $parts = [];
        foreach ($this->disks as $disk) {
            $unreadable = $disk->unreadable();
            foreach (array_diff_key($disk->chain, $unreadable) as $set) {
                $bytes[$set->id] = null;
                $parts[$set->id][] = $disk->partOf($set);
            }
        }

        return ReadingOfSets::for($this->points, $bytes, $rule, $parts);
    }

    /** @return array<string, DiskFacts> the disks that a point has, by name */
    public static function disksOf(Points $points, SetOutline $point): array
    {
        return DiskFacts::ofSet($points->model($point));
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

    /** @return array<string, int> disk => blocks that nobody can give back, where there are some */
    public function lost(): array
    {
        return array_filter(array_map(fn (DiskOfPoint $disk): int => $disk->lostBlocks(), $this->disks));
    }

    /** @return list<string> what stands in the way; none if it can begin */
    public function blockers(): array
    {
        $blockers = [];
        foreach (array_diff($this->order->disks, array_keys($this->disks)) as $disk) {
            $blockers[] = "{$this->point->name} has no disk $disk.";
        }
        try {
            return [...$blockers, ...$this->unfitDisks(), ...$this->unfitTarget()];
        } catch (UnableToRead|UnableToRestore $unable) {
            return [...$blockers, ucfirst(rtrim($unable->getMessage(), '.')).'.'];
        }
    }

    /** @return list<string> */
    private function unfitDisks(): array
    {
        $blockers = [];
        $format = $this->order->format;
        foreach ($this->disks as $name => $disk) {
            $size = $disk->plan()->size();
            if ($format->largest() !== null && $size > $format->largest()) {
                $blockers[] = "The disk $name has ".Words::size($size).'; an image of the format '.$format->extension().' takes up to '.
                    Words::size($format->largest()).'.';
            }
        }
        foreach ($this->order->part ? [] : $this->lost() as $name => $blocks) {
            $blockers[] = sprintf(
                '%s of the disk %s cannot be given back at this point%s. It can be had in part: then they are zeros, and listed.',
                Words::count($blocks, 'block'),
                $name,
                $this->because($this->disks[$name]),
            );
        }
        $needs = (new Machines)->needs();
        if ($format !== ImageFormat::Raw && ! $needs[0]->isThere()) {
            $blockers[] = "An image of the format {$format->extension()} is written by {$needs[0]->program}: ".
                "apt-get install {$needs[0]->package}.";
        }

        return $blockers;
    }

    private function because(DiskOfPoint $disk): string
    {
        $unreadable = $disk->unreadable();

        return $unreadable === []
            ? ', since what it rests on is not known'
            : ', since no copy of '.implode(', ', array_slice($unreadable, 0, 3)).' can be read';
    }

    /** @return list<string> */
    private function unfitTarget(): array
    {
        $look = $this->order->look();
        $blockers = [];
        foreach ($this->order->filesOf(...$this->order->disks) as $file) {
            if ($look->status($file) !== null) {
                $blockers[] = "{$this->order->folder} has a $file already, and nothing is written over it.";
            }
        }
        $needed = array_sum($this->bytes());
        if ($look->freeBytes() < $needed) {
            $blockers[] = 'There is room for '.Words::size($look->freeBytes()).'; up to '.Words::size($needed).' are needed.';
        }

        return $blockers;
    }

    /** The order in one sentence, with moments in a zone. */
    public function sentence(string $zone): string
    {
        return self::words($this->points, $this->point, $this->order, $zone);
    }

    private static function words(Points $points, SetOutline $point, MachineOrder $order, string $zone): string
    {
        $disks = $order->disks;

        return sprintf(
            'Write %s of %s as of %s as %s to %s%s%s, and check every block.',
            count($disks) === 1 ? "the disk {$disks[0]}" : 'the disks '.implode(', ', $disks),
            $points->workload->name,
            Words::moment($point->capturedAt(), $zone),
            $order->format->extension(),
            $order->folder,
            $order->host === '' ? '' : " of {$order->host}",
            $order->part ? ', with what cannot be had left as zeros' : '',
        );
    }
}
