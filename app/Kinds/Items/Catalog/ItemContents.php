<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Places\ContentPlaces;
use Closure;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\SpooledContent;

/** Contents of a workload out of its archives, many of them in the order in which they stand there. */
final class ItemContents
{
    private readonly ArchiveReading $reading;

    /** @var array<int, ContentPlaces> set id => places */
    private array $places = [];

    public function __construct(private readonly Points $points)
    {
        $this->reading = new ArchiveReading;
    }

    /**
     * @param  array<string, array{SetOutline, int}>  $wanted  digest => a set at whose point it is there, its size
     * @param  Closure(string, SpooledContent): void  $each  told digest and content, in whatever order is quickest
     * @return list<string> digests of those that no archive gives
     */
    public function read(array $wanted, Closure $each): array
    {
        $work = $missing = [];
        foreach ($wanted as $digest => [$set, $size]) {
            $place = $this->of($set)->placeOf((string) $digest);
            if ($place === null) {
                $missing[] = (string) $digest;
            } else {
                $work[] = [$place, (string) $digest, $set, $size];
            }
        }
        $rank = fn (ContentPlace $at): array => [$at->order, $at->archiveKey, $at->place->offset, $at->place->within];
        usort($work, fn (array $a, array $b): int => $rank($a[0]) <=> $rank($b[0]));
        foreach ($work as [$place, $digest, $set, $size]) {
            $content = $this->one($place, $digest, $set, $size);
            if ($content === null) {
                $missing[] = $digest;
            } else {
                $each($digest, $content);
            }
        }

        return $missing;
    }

    /** From this place, or from whatever other copy gives it. */
    private function one(?ContentPlace $place, string $digest, SetOutline $set, int $size): ?SpooledContent
    {
        for ($failed = []; $place !== null; $place = $this->of($set)->placeOf($digest, $failed)) {
            try {
                $content = new SpooledContent;
                $check = new ContentDigest;
                $bytes = $this->reading->plain($place, $size);
                if ($bytes === null) {
                    $this->reading->read($place, $content, $check);
                } else {
                    $content->data($bytes);
                    $check->data($bytes);
                }
                if ($check->finish() === $digest) {
                    return $content;
                }
                $this->of($set)->archiveFailed($place->archiveKey, 'a content in it is not what was cataloged: its digest differs');
            } catch (UnreadableArchive $damage) {
                $this->of($set)->archiveFailed($place->archiveKey, $damage->getMessage());
            }
            $failed[] = $place->archiveKey;
        }

        return null;
    }

    private function of(SetOutline $set): ContentPlaces
    {
        return $this->places[$set->id] ??= new ContentPlaces($this->points, $this->points->model($set), $this->points->route(null));
    }
}
