<?php

declare(strict_types=1);

namespace App\Sets;

use App\Instance;
use App\Models\BackupSet;

/** What is kept of each set under the home, beside the catalog. */
final class SetFiles
{
    /** @param  int  $set its id */
    public static function placeIndex(int $set): string
    {
        return Instance::folder('index')."/$set.places";
    }

    /**
     * The digests of the archive's pieces as it was registered: see Archive\PieceDigests.
     *
     * @param  int  $set its id
     * @param  int  $part  which of its files
     */
    public static function pieces(int $set, int $part = 0): string
    {
        return Instance::folder('index')."/$set".($part === 0 ? '' : ".$part").'.pieces';
    }

    /** The change times of the source's files when the set was made: see Protect\SourceState. */
    public static function sourceState(BackupSet $set): string
    {
        return Instance::folder('index')."/{$set->id}.source";
    }
}
