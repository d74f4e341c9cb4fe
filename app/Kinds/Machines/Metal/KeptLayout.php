<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Metal\LayoutRecord;

/** How the disks of a set were laid out, kept with it once it was read off them: a set does not change. */
final class KeptLayout
{
    /** In the facts of a set. */
    private const FACT = 'layout';

    /** Null if nobody read it yet. */
    public static function of(BackupSet $set): ?LayoutRecord
    {
        $kept = $set->facts[self::FACT] ?? null;

        return $kept === null ? null : LayoutRecord::ofJson((string) json_encode($kept));
    }

    /** @throws CannotBring if it cannot be read */
    public static function read(Points $points, SetOutline $point, CopyRule $copies): LayoutRecord
    {
        $set = $points->model($point);
        $record = self::of($set);
        if ($record === null) {
            $record = MetalSources::of($points, $point, $copies)->record();
            $set->update(['facts' => [self::FACT => $record->toArray()] + ($set->facts ?? [])]);
        }

        return $record;
    }
}
