<?php

declare(strict_types=1);

namespace App\Kinds\Files\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Files\Files;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Trees\Intake\Adoption;
use App\Trees\Intake\ArchivesAgain;

/** Takes archives of folder trees in. */
final class FilesIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        return Adoption::carryOut($order, Files::NAME);
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return (new ArchivesAgain($order, Files::NAME, true))->take();
    }
}
