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
use Kaiseki\Core\Catalog\ArchiveScan;

/** Takes archives of folder trees in. */
final class FilesIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        $adoption = new Adoption(Files::NAME);
        $adoption->adopt(
            $order->folder,
            $order->workload,
            $order->options['pattern'] ?? null,
            $order->options['sheet'] ?? null,
            $order->site,
            $order->progress,
            max(1, (int) ($order->options['ratio'] ?? ArchiveScan::MOST_TIMES)),
        );

        return new Adopted($adoption->sets, $adoption->refused);
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return (new ArchivesAgain($order, Files::NAME, true))->take();
    }
}
