<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use Kaiseki\Core\Proof\CheckLine;

/** What came of bringing a machine back at a hypervisor. */
final readonly class PlacementOutcome
{
    /**
     * @param  list<BroughtDisk>  $disks
     * @param  list<CheckLine>  $checks
     * @param  bool  $setsAside  whether something that stood there is kept
     */
    public function __construct(public array $disks, public array $checks, public bool $setsAside)
    {
    }

    public function missing(): int
    {
        return array_sum(array_map(fn (BroughtDisk $disk): int => $disk->missing, $this->disks));
    }

    /** What could not be seen is told, and is no fault. */
    public function isRight(): bool
    {
        return CheckLine::wrong($this->checks) === [];
    }
}
