<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ArchiveReading;

/** The named attributes that an archive holds of a file. */
final class ExtendedAttributes
{
    /** @return array<string, string> name => value, as it stands in the archive */
    public static function of(BackupSet $point, string $path, Version $version): array
    {
        if ($version->digest === null || $version->size <= 0) {
            return [];
        }
        $points = new Points($point->workload);
        try {
            $place = (new ContentPlaces($points, $point, $points->route(null)))->placeOf($version->digest);
            $member = $place === null ? null : (new ArchiveReading)->member($place);
            if ($member === null || EntryPath::of($member->path) !== $path) {
                return []; // the content lies there under the name of another file, whose attributes these would be
            }
        } catch (UnreadableArchive|UnsafePath) {
            return [];
        } finally {
            $points->stores->release();
        }
        $attributes = [];
        foreach ($member->extended as $keyword => $value) {
            if (! AccessList::isOfList($keyword)) {
                $attributes[substr($keyword, 13)] = $value;
            }
        }

        return $attributes;
    }
}
