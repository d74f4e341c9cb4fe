<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Catalog\Version;

/** Brings the content of one file, right by its digest, out of the first archive that gives it. */
final class OneFile
{
    /**
     * @param  list<string>  $onShelf  where null comes back: STORE/LABEL of cartridges that would give it
     * @return resource|null null if no archive gives it
     */
    public static function read(BackupSet $point, Version $version, array &$onShelf = [])
    {
        $contents = new PointContents(new Points($point->workload), $point);
        $content = $contents->of($version);
        $onShelf = $content === null ? $contents->onShelf() : [];

        return $content?->rewound();
    }
}
