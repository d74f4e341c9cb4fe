<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;

/** Of which form the sets of a machine are. */
final class MetalSources
{
    public static function of(Points $points, SetOutline $point, CopyRule $copies = new CopyRule): MetalSource
    {
        return FromInside::isAt($points->model($point))
            ? new FromInside($points, $point, $copies)
            : new FromImages($points, $point, $copies);
    }
}
