<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Machine\Disk;

/** The files inside a machine as its disks are now. */
final class DisksTree extends VolumeTree
{
    /** @param  array<array-key, Disk>  $disks  by name */
    public function __construct(private readonly string $machine, private readonly array $disks)
    {
    }

    protected function disks(): iterable
    {
        return $this->disks;
    }

    protected function name(): string
    {
        return $this->machine;
    }
}
