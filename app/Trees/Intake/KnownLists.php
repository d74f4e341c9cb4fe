<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Chain\Chain;

/** Whether a point knows access lists, so that what has none there had none; else nobody can tell, and what has one now keeps it. */
final class KnownLists
{
    /** In the facts of a set: it was made by whoever asked for lists. */
    public const FACT = 'lists';

    /** By the full of its chain: what an increment did not touch is as that has it. */
    public static function at(Points $points, BackupSet $point): bool
    {
        $chain = $points->graph->chainOf($point->name);
        $full = $chain instanceof Chain ? $points->set($chain->sets[0]->id) : null;

        return $full !== null && ($points->model($full)->facts[self::FACT] ?? false) === true;
    }
}
