<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\BackupSet;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use Kaiseki\Core\Catalog\Shown;

/** The line in the trail of somebody who looked at what is stored, or took it away. */
final class ContentRead
{
    /** @param  string  $what  what they did: "took", "looked at" */
    public static function file(string $what, BackupSet $set, string $path, User $by): void
    {
        self::told(ucfirst("$what ").Shown::name($path)." as it was in {$set->name} of {$set->workload->name}.", $set->workload, $by);
    }

    public static function told(string $what, ?Workload $workload, User $by): void
    {
        TrailEntry::add($what, null, $by, sort: TrailSort::Content, workload: $workload);
    }
}
