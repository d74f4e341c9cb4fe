<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Kinds\TouchedPlace;
use App\Models\Host;
use App\Models\Workload;
use App\People\TargetReach;

/** A folder of a host as a place that an order writes to. */
final class TouchedFolder
{
    /** @param  Host|null  $host  null for a folder of this machine that belongs to no host */
    public static function of(?Host $host, string $folder, bool $replaces = true): TouchedPlace
    {
        $originals = TargetReach::isElsewhere($host, $folder) ? [] : array_values(TargetReach::ownersOf($folder)->all());
        $around =
            $host === null
                ? null
                : array_values(Workload::query()->get()->filter(fn (Workload $one): bool => TargetReach::isHostOf($host, $one))->all());

        return new TouchedPlace('that folder', $host === null ? 'this machine' : "the host {$host->name}", $replaces, $originals, $around);
    }
}
