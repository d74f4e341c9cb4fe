<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\MachineTree;
use App\Models\Host;
use App\Sets\SetOutline;
use App\Trees\Run\RestorePlan;
use App\Words;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\UnableToRead;

/** An order of files out of a machine. */
final class FilesOrder
{
    /** @param  list<string>  $paths  as MachineTree::find() takes them */
    public static function plan(
        SetOutline $point,
        string $workload,
        array $paths,
        ?Host $host,
        string $folder,
        ConflictRule $conflict,
        CopyRule $copies,
    ): RestorePlan {
        return new RestorePlan(
            $paths,
            $folder,
            $conflict,
            gmdate('Y-m-d Hi'),
            self::sentence($paths, $workload, $point, $folder, 'UTC'),
            copies: $copies,
            host: $host->name ?? '',
        );
    }

    /** @param  list<string>  $paths */
    public static function sentence(array $paths, string $workload, SetOutline $point, string $folder, string $zone): string
    {
        return sprintf(
            'Put back %s out of %s as it was on %s into %s, and check it by digest, size, mode and time.',
            self::words($paths),
            $workload,
            Words::moment($point->capturedAt(), $zone),
            Shown::name($folder),
        );
    }

    /**
     * @param  list<string>  $paths
     * @return list<string> what of them is not there, or cannot be read
     */
    public static function notThere(MachineTree $tree, array $paths): array
    {
        $blockers = [];
        foreach ($paths as $path) {
            try {
                $tree->find($path);
            } catch (CannotBring|UnableToRead $cannot) {
                $blockers[] = $cannot->getMessage();
            }
        }

        return $blockers;
    }

    /** @param  list<string>  $paths */
    public static function words(array $paths): string
    {
        $first = array_map(fn (string $path): string => '/'.Shown::name($path), array_slice($paths, 0, 3));

        return implode(', ', $first).(count($paths) > 3 ? ' and '.(count($paths) - 3).' more' : '');
    }
}
