<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\SpooledContent;

/** Brings the content of one file, right by its digest, out of the first archive that gives it. */
final class OneFile
{
    /**
     * @param  list<string>  $onShelf  where null comes back: STORE/LABEL of cartridges that would give it
     * @return resource|null null if no archive gives it
     */
    public static function read(BackupSet $point, Version $version, array &$onShelf = [])
    {
        if ($version->size === 0) {
            return (new SpooledContent)->rewound();
        }
        if ($version->digest === null) {
            return null;
        }
        $points = new Points($point->workload);
        $places = new ContentPlaces($points, $point, $points->route(null));
        for ($failed = []; ($place = $places->placeOf($version->digest, $failed)) !== null; $failed[] = $place->archiveKey) {
            try {
                $content = new SpooledContent;
                $digest = new ContentDigest;
                (new ArchiveReading)->read($place, $content, $digest);
                if ($digest->finish() === $version->digest) {
                    return $content->rewound();
                }
                $places->archiveFailed($place->archiveKey, 'a content in it is not what was cataloged: its digest differs');
            } catch (UnreadableArchive $damage) {
                $places->archiveFailed($place->archiveKey, $damage->getMessage());
            }
        }

        $onShelf = $places->onShelf();

        return null;
    }
}
