<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Instant;

/** A path that was named must be in the point; if it is not, it is said when it last was. */
final class Selected
{
    public static function mustBeThere(Workload $workload, BackupSet $point, string $path): void
    {
        $reader = new CatalogReader;
        if ($reader->has($point, $path)) {
            return;
        }
        $words = 'There is no "/'.Shown::name($path)."\" in {$point->name}.";
        $versions = $reader->versionsOf($workload, $path);
        $last = end($versions);
        if ($last !== false) {
            $words .= $last->first > $point->instant
                ? ' It first appears in the point of '.Instant::ofMicroseconds($last->first)->iso().'.'
                : ' It was last there before the point of '.Instant::ofMicroseconds($last->until)->iso().'.';
        }
        throw new InvalidArgumentException($words);
    }
}
