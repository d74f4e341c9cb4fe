<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Run\MachineProof;
use App\Models\Run;

/** The signed account of a run that brought a machine onto the disks of another. */
final class MetalProof
{
    /** @param  string|null  $hypervisor  where the machine was made for it; null for metal */
    public static function write(Run $run, MetalOrder $order, ?string $hypervisor = null): void
    {
        $outcome = $run->outcome ?? [];
        (new MachineProof($run, $order->sentence))->write('a machine on other disks', [
            'enrolment' => $order->enrolment,
            'machine' => $order->machine->toArray(),
            'layout' => $order->layout->toArray(),
        ] + ($hypervisor === null ? [] : [
            'at_hypervisor' => $hypervisor,
            'started' => $outcome['boot']['stages'] ?? null,
        ]), $outcome);
    }
}
