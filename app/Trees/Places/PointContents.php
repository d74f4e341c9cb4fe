<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\SpooledContent;

/** Contents of files of a point, each right by its digest, out of the first archive that gives it. */
final class PointContents
{
    private readonly ContentPlaces $places;

    private readonly ArchiveReading $archives;

    public function __construct(Points $points, BackupSet $point, ?ReadingList $list = null, CopyRule $copies = new CopyRule)
    {
        $this->places = new ContentPlaces($points, $point, $points->route(null), $list, $copies);
        $this->archives = new ArchiveReading;
    }

    /** Null if no archive gives it. */
    public function of(Version $version): ?SpooledContent
    {
        if ($version->size === 0) {
            return new SpooledContent;
        }
        if ($version->digest === null) {
            return null;
        }
        for ($failed = []; ($place = $this->places->placeOf($version->digest, $failed)) !== null; $failed[] = $place->archiveKey) {
            try {
                $content = new SpooledContent;
                $digest = new ContentDigest;
                $this->archives->read($place, $content, $digest);
                if ($digest->finish() === $version->digest) {
                    return $content;
                }
                $this->places->archiveFailed($place->archiveKey, 'a content in it is not what was cataloged: its digest differs');
            } catch (UnreadableArchive $damage) {
                $this->places->archiveFailed($place->archiveKey, $damage->getMessage());
            }
        }

        return null;
    }

    /** @return list<string> where nothing came back: STORE/LABEL of cartridges that would give it */
    public function onShelf(): array
    {
        return $this->places->onShelf();
    }
}
