<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** A machine is turned on or off. */
enum Turn: string
{
    case Start = 'start';
    case Stop = 'stop';
    case Cut = 'cut';

    /** @throws HypervisorFailure */
    public function carryOut(Hypervisor $hypervisor, string $machine): void
    {
        $this === self::Start ? $hypervisor->start($machine) : $hypervisor->stop($machine, $this === self::Cut);
    }

    public function done(string $machine, string $on): string
    {
        return match ($this) {
            self::Start => "$machine at $on was started.",
            self::Stop => "$machine at $on was asked to shut down.",
            self::Cut => "$machine at $on was ended at once.",
        };
    }

    public function ordered(string $machine, string $on): string
    {
        return match ($this) {
            self::Start => "$machine at $on is to be started.",
            self::Stop => "$machine at $on is to be shut down.",
            self::Cut => "$machine at $on is to be ended at once.",
        };
    }
}
