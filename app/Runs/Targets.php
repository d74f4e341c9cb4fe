<?php

declare(strict_types=1);

namespace App\Runs;

use App\Instance;
use App\Models\Host;
use App\Models\Store;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Files\UnableToRestore;

/** Where a run may put things. */
final class Targets
{
    /** The absolute form of a folder's path as it was typed. */
    public static function absolute(string $path): string
    {
        return str_starts_with($path, '/') ? rtrim($path, '/') ?: '/' : getcwd().'/'.rtrim($path, '/');
    }

    /**
     * A folder of a host, which lies in what it gives us.
     *
     * @throws UnableToRestore
     */
    public static function onHost(Host $host, string $folder): string
    {
        try {
            $below = EntryPath::of($folder);
        } catch (UnsafePath $unsafe) {
            throw UnableToRestore::targetUnfit("{$host->name}:$folder", $unsafe->getMessage());
        }
        $top = rtrim($host->folder, '/');
        $target = rtrim($top.'/'.(EntryPath::isWithin($below, ltrim($top, '/')) && $top !== '' ? ltrim(substr($below, strlen(ltrim($top, '/'))), '/') : $below), '/');
        if ($host->kind === 'folder') {
            self::refuseUnfit($target);
        }

        return $target === '' ? '/' : $target;
    }

    /** @throws UnableToRestore if it cannot be a target: it is not there, or it is part of what must not be written to */
    public static function refuseUnfit(string $target): void
    {
        if (str_contains($target, "\0")) {
            throw UnableToRestore::targetUnfit($target, 'its name holds a NUL byte');
        }
        $real = realpath($target) ?: (realpath(dirname($target)) ?: throw UnableToRestore::targetMissing($target)).'/'.basename($target);
        if (file_exists($target) && ! is_dir($target)) {
            throw UnableToRestore::targetUnfit($target, 'it is no folder');
        }
        foreach (Store::query()->pluck('root') as $root) {
            if ($real === $root || str_starts_with("$real/", rtrim((string) $root, '/').'/')) {
                throw UnableToRestore::targetUnfit($target, 'it lies in a store, beside the archives');
            }
        }
        $home = realpath(Instance::home());
        if ($home !== false && str_starts_with("$real/", "$home/") && ! str_starts_with("$real/", "$home/hosts/") && ! str_starts_with("$real/", "$home/restored/")) {
            throw UnableToRestore::targetUnfit($target, 'it lies in the home of Kaiseki itself');
        }
    }

    /** Not there yet, or empty. */
    public static function isNew(string $target): bool
    {
        return ! is_dir($target) || count(scandir($target) ?: []) <= 2;
    }
}
