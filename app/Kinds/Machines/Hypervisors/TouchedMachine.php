<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Touched;
use App\Kinds\TouchedPlace;

/** A machine of a hypervisor as a place that an order writes to. */
final class TouchedMachine
{
    public static function by(PlacementOrder $order): Touched
    {
        $host = HypervisorHost::query()->where('name', $order->on)->first();
        if ($host === null) {
            return Touched::nothing();
        }

        return self::at($host, $order->machine, $order->replaces());
    }

    /** @param  bool  $replaces  whether anything that is there is changed */
    public static function at(HypervisorHost $host, string $machine, bool $replaces): Touched
    {
        return new Touched([new TouchedPlace('that machine', $replaces, $replaces ? $host->workloads($machine) : [], $host)]);
    }
}
