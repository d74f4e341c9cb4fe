<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\BackupSet;
use App\Models\Copy;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;

/** What lies beside an archive that Kaiseki made: the manifest, the list for b2sum, the record of the set. */
final class SidecarFiles
{
    public const ENDINGS = ['.manifest.jsonl', '.b2sum', '.set.json'];

    /** @return array<string, string>|null ending => digest, hex; null if there are none */
    public static function digests(string $archive, string $set): ?array
    {
        $digests = [];
        foreach (self::ENDINGS as $ending) {
            $digest = ContentDigest::ofFile(dirname($archive)."/$set$ending");
            if ($digest !== null) {
                $digests[$ending] = bin2hex($digest);
            }
        }

        return $digests === [] ? null : $digests;
    }

    /** Where on the store of a copy one of them lies. */
    public static function path(Copy $copy, BackupSet $set, string $ending): string
    {
        $folder = dirname($copy->path);

        return ($folder === '.' ? '' : "$folder/").$set->name.$ending;
    }

    /** @return array<string, string> ending => what is wrong with it; tapes have no files beside an archive that are looked for */
    public static function wrong(Copy $copy, BackupSet $set, OpenStores $stores): array
    {
        $wrong = [];
        foreach ($copy->has_beside ? $set->beside ?? [] : [] as $ending => $digest) {
            $name = substr($ending, 1);
            $now = self::digestOf($copy, $set, $ending, $stores);
            if ($now === null) {
                $wrong[$ending] = "its $name is not there, or cannot be read";
            } elseif ($now !== $digest) {
                $wrong[$ending] = "its $name is not what it was";
            }
        }

        return $wrong;
    }

    /** Hex; null if it is not there. */
    public static function digestOf(Copy $copy, BackupSet $set, string $ending, OpenStores $stores): ?string
    {
        $store = $stores->of($copy->store);
        try {
            $bytes = $store->raw(new StoredCopy(self::path($copy, $set, $ending), 0));
            $digest = new ContentDigest;
            while (($part = $bytes->read(1 << 18)) !== '') {
                $digest->data($part);
            }

            return bin2hex($digest->finish());
        } catch (UnreadableArchive) {
            return null;
        }
    }
}
