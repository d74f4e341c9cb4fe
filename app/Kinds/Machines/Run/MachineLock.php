<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Runs\TargetLock;
use Kaiseki\Core\Files\UnableToRestore;

/** One run at a time at a machine of a hypervisor. */
final class MachineLock
{
    /**
     * @return string what is locked
     *
     * @throws UnableToRestore if another run has it
     */
    public static function take(string $machine, string $on): string
    {
        TargetLock::take($machine, $on, "the machine $machine at $on");

        return "$machine at $on";
    }

    public static function free(string $machine, string $on): void
    {
        TargetLock::free($machine, $on);
    }
}
