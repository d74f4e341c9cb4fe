<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Models\BackupSet;
use App\Sets\Points;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\PlanOfReading;
use App\Trees\Run\HandSheetOf;
use App\Trees\Run\PlannedOrder;
use App\Trees\Run\RestorePlan;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;

/** The same as commands for a person: the files that the items stand in, out of the archives into a folder. */
final class ItemsHandSheet
{
    /**
     * @param  list<ChosenItem>  $chosen
     * @return iterable<string>
     */
    public static function script(Points $points, BackupSet $point, array $chosen, PlanOfReading $reading, CopyRule $copies): iterable
    {
        $keys = array_values(array_unique(array_map(fn (ChosenItem $one): int => $one->span->path, $chosen)));
        $paths = (new CatalogReader)->folderPaths($keys);
        unset($paths[0]);
        $plan = new RestorePlan(
            array_values($paths),
            '',
            ConflictRule::Beside,
            $point->captured_at->format('Y-m-d Hi'),
            ItemCount::of($chosen).', as the files that they stand in: copy what lies in cur and new into cur of a Maildir, '.
                'under another name where one is taken; a mail program opens an mbox, and takes in .ics and .vcf.',
            copies: $copies,
        );

        return HandSheetOf::make($plan, PlannedOrder::of($plan, $point, $points, 'hand'), $reading, $point, $points)->script();
    }
}
