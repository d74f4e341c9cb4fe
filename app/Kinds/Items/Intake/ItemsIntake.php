<?php

declare(strict_types=1);

namespace App\Kinds\Items\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Intake;
use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Items;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Models\Workload;
use App\Trees\Intake\Adoption;
use App\Trees\Intake\ArchivesAgain;

/** Takes archives of mailboxes in: Maildir, mbox, single messages, as they lie in the tree. */
final class ItemsIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        $adopted = Adoption::carryOut($order, Items::NAME);
        self::find($order->workload, $adopted->sets === []);

        return $adopted;
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        $rebuilt = (new ArchivesAgain($order, Items::NAME, false))->take();
        self::find($order->workload, $rebuilt->sets === []);

        return $rebuilt;
    }

    private static function find(string $name, bool $isNothing): void
    {
        $workload = $isNothing ? null : Workload::query()->where('name', $name)->where('kind', Items::NAME)->first();
        if ($workload !== null) {
            ItemCatalog::bringUpToDate($workload);
        }
    }
}
