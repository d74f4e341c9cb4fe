<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Machines;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\ImageFormat;
use Kaiseki\Core\UnableToRead;

/** What an order of images means at its point, and what stands in the way of it. */
final class ImagePlan
{
    public readonly PlannedDisks $planned;

    /** @var array<string, DiskOfPoint> by name: those of the order that the point has */
    public readonly array $disks;

    public function __construct(
        public readonly Points $points,
        public readonly SetOutline $point,
        public readonly MachineOrder $order,
    ) {
        $this->planned = new PlannedDisks($points, $point, $order->disks, $order->copies);
        $this->disks = $this->planned->disks;
    }

    /** With the order's own sentence, which is kept with its moment in UTC. */
    public static function of(Points $points, SetOutline $point, MachineOrder $order): self
    {
        return new self($points, $point, $order->withSentence(self::words($points, $point, $order, 'UTC')));
    }

    /** @return array<string, DiskFacts> the disks that a point has, by name */
    public static function disksOf(Points $points, SetOutline $point): array
    {
        return DiskFacts::ofSet($points->model($point));
    }

    /** @return list<string> what stands in the way; none if it can begin */
    public function blockers(): array
    {
        try {
            return [...$this->planned->blockers($this->order->part), ...$this->unfitDisks(), ...$this->unfitTarget()];
        } catch (UnableToRead|UnableToRestore $unable) {
            return [ucfirst(rtrim($unable->getMessage(), '.')).'.'];
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
        $needs = (new Machines)->needs();
        if ($format !== ImageFormat::Raw && ! $needs[0]->isThere()) {
            $blockers[] = "An image of the format {$format->extension()} is written by {$needs[0]->program}: ".
                "apt-get install {$needs[0]->package}.";
        }

        return $blockers;
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
        $needed = array_sum($this->planned->bytes());
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
