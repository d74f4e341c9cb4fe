<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;

/** Takes images of disks in, those of others as they lie and our own again. */
final class MachineIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        return (new ImageAdoption($order))->take();
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return (new ImagesAgain($order))->take();
    }
}
