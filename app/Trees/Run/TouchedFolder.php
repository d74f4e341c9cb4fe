<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Kinds\TouchedPlace;
use App\Models\Host;
use App\Models\Workload;

/** A folder of a host as a place that an order writes to. */
final class TouchedFolder
{
    /** @param  Host|null  $host  null for a folder of this machine; it belongs to a host all the same if it lies within one's */
    public static function of(?Host $host, string $folder, bool $replaces = true): TouchedPlace
    {
        $isElsewhere = $host?->kind === 'sftp' || $folder === '';

        return new TouchedPlace(
            'that folder',
            $replaces,
            $isElsewhere ? [] : self::originals($folder),
            $host ?? ($isElsewhere ? null : self::hostOf($folder)),
        );
    }

    private static function hostOf(string $folder): ?Host
    {
        $real = realpath($folder) ?: $folder;

        return Host::query()
            ->where('kind', 'folder')
            ->get()
            ->sortByDesc(fn (Host $host): int => strlen($host->folder)) // the innermost
            ->first(fn (Host $host): bool => $host->holds($folder) || $host->holds($real));
    }

    /** @return list<Workload> those whose original a folder of this machine is, holds, or lies in */
    public static function originals(string $folder): array
    {
        $real = realpath($folder) ?: $folder;

        return array_values(
            Workload::query()
                ->whereNotNull('source')
                ->get()
                ->filter(function (Workload $workload) use ($folder, $real): bool {
                    $named = (string) $workload->source;
                    $source = realpath($named) ?: $named;

                    return Host::isWithin($real, $source) || Host::isWithin($source, $real) || Host::isWithin($folder, $named);
                })
                ->all(),
        );
    }
}
