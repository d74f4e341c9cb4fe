<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Models\BackupSet;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Trees\Places\PlanOfReading;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyRule;

/** Which sets must be read for a selection of items: those of the files that they stand in. */
final class ItemsReading
{
    /**
     * @param  list<ChosenItem>  $chosen
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public static function plan(Points $points, BackupSet $point, array $chosen, CopyRule $rule): PlanOfReading
    {
        $files = [];
        foreach ($chosen as $one) {
            $files[$one->span->digest] = Version::join('f', $one->span->size, 0, $one->span->digest, '');
        }

        return PlanOfReading::for($points, $point, [], null, $rule, array_values($files));
    }
}
