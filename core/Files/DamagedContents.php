<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ByteRanges;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\PlaceIndex;

/** Which contents of an archive a damage touches: those that lie where the bytes are wrong are read one by one. */
final class DamagedContents
{
    /**
     * @param  ByteRanges  $damage  bytes of the archive that are not what they were
     * @return list<string> the digests of contents that this copy does not give any more
     */
    public static function in(ArchiveFile $archive, PlaceIndex $index, ByteRanges $damage): array
    {
        $suspects = self::suspects($index, $damage);
        $reading = new ArchiveReading;
        $lost = [];
        $brokenMember = null;
        foreach ($suspects as $turn => [$digest, $place]) {
            if ($archive->gzipped && $place->offset === $brokenMember) {
                $lost[$digest] = true; // behind the break in the same gzip member

                continue;
            }
            try {
                $content = new ContentDigest;
                $reading->read(new ContentPlace('', $turn, $archive, $place), $content);
                if ($content->finish() !== $digest) {
                    $lost[$digest] = true;
                }
            } catch (UnreadableArchive $damage) {
                $lost[$digest] = true;
                $brokenMember = $damage->isBreak ? $place->offset : $brokenMember;
            }
        }

        return array_map(strval(...), array_keys($lost));
    }

    /**
     * A content takes what lies between its place and the place of the next one that begins further on.
     *
     * @return list<array{string, Place}> in the order of the archive
     */
    private static function suspects(PlaceIndex $index, ByteRanges $damage): array
    {
        $places = [];
        foreach ($index->records() as [$digest, $place]) {
            $places[] = [$place->offset, $place->within, $digest];
        }
        sort($places);
        $suspects = [];
        for ($end = PHP_INT_MAX, $at = count($places) - 1; $at >= 0; $at--) {
            [$offset, $within, $digest] = $places[$at];
            if (isset($places[$at + 1]) && $places[$at + 1][0] > $offset) {
                $end = $places[$at + 1][0];
            }
            if ($damage->touch($offset, $end)) {
                $suspects[] = [$digest, new Place($offset, $within)];
            }
        }

        return array_reverse($suspects);
    }
}
