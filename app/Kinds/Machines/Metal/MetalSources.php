<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Machines;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;

/** Of which form the sets of a machine are. */
final class MetalSources
{
    /** Whether a workload is a machine, in either form. */
    public static function isMachine(?Workload $workload): bool
    {
        return $workload !== null && ($workload->kind === Machines::NAME || FromInside::isOf($workload));
    }

    /** Null if none has that name. */
    public static function machine(string $name): ?Workload
    {
        $workload = Workload::query()->where('name', $name)->first();

        return self::isMachine($workload) ? $workload : null;
    }

    public static function of(Points $points, SetOutline $point, CopyRule $copies = new CopyRule): MetalSource
    {
        return FromInside::isAt($points->model($point))
            ? new FromInside($points, $point, $copies)
            : new FromImages($points, $point, $copies);
    }
}
