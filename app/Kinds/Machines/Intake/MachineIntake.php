<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;

/** Takes images of disks in. */
final class MachineIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        return (new ImageAdoption($order))->take();
    }

    /** No set of a machine is made here yet, so that none lies on a store of ours. */
    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return new Rebuilt;
    }
}
