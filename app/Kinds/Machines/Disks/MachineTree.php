<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Kinds\Machines\Order\ImagePlan;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;

/** The files inside a machine as it was at a point, read out of the chain. */
final class MachineTree extends VolumeTree
{
    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly CopyRule $rule = new CopyRule,
    ) {
    }

    protected function disks(): iterable
    {
        foreach (array_keys(ImagePlan::disksOf($this->points, $this->point)) as $name) {
            $disk = DiskOfPoint::of($this->points, $this->point, (string) $name, $this->rule);
            if ($disk !== null) {
                yield $name => $disk->disk();
            }
        }
    }

    protected function name(): string
    {
        return $this->point->name;
    }
}
