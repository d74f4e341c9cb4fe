<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Run\MachineProof;
use App\Models\Run;

/** The signed account of a run that brought a machine onto the disks of another. */
final class MetalProof
{
    public static function write(Run $run, MetalOrder $order): void
    {
        $outcome = $run->outcome ?? [];
        (new MachineProof($run, $order->sentence))->write('a machine on other disks', [
            'enrolment' => $order->enrolment,
            'machine' => $order->machine->toArray(),
            'layout' => $order->layout->toArray(),
        ], $outcome);
    }
}
