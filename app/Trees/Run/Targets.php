<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Hosts\Hosts;
use App\Hosts\Walls;
use App\Instance;
use App\Models\Host;
use App\Models\Store;
use App\Models\Workload;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\UnableToRestore;

/** Where a run may put things. */
final class Targets
{
    /** The absolute form of a folder's path as it was typed. */
    public static function absolute(string $path): string
    {
        return str_starts_with($path, '/') ? (rtrim($path, '/') ?: '/') : getcwd().'/'.rtrim($path, '/');
    }

    /**
     * The folder that was given to us, in which a target lies: up to it links are followed, below it none is. It is what the host gives
     * us, the place of a workload's original or, for new folders beside that, the folder above it; else what was named on the command line.
     */
    public static function root(?Host $host, string $target): string
    {
        if ($host !== null) {
            return rtrim($host->folder, '/') ?: '/';
        }
        $roots = [Instance::path('restored')];
        foreach (Workload::query()->whereNotNull('source')->pluck('source') as $source) {
            array_push($roots, (string) $source, dirname((string) $source).'/restored');
        }
        $around = array_filter($roots, fn (string $root): bool => Host::isWithin($target, $root));
        usort($around, fn (string $a, string $b): int => strlen($a) <=> strlen($b));

        return match (true) {
            $around === [] => is_dir($target) ? $target : dirname($target),
            str_ends_with($around[0], '/restored') => dirname($around[0]),
            default => $around[0],
        };
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
        $target = rtrim(
            $top.
                '/'.
                (EntryPath::isWithin($below, ltrim($top, '/')) && $top !== ''
                    ? ltrim(substr($below, strlen(ltrim($top, '/'))), '/')
                    : $below),
            '/',
        );
        if ($host->kind === 'folder') {
            self::refuseUnfit($target, $host);
        }

        return $target === '' ? '/' : $target;
    }

    /** @throws UnableToRestore if it cannot be a target: it is not there, or it is part of what must not be written to */
    public static function refuseUnfit(string $target, ?Host $host = null): void
    {
        if (str_contains($target, "\0")) {
            throw UnableToRestore::targetUnfit($target, 'its name holds a NUL byte');
        }
        $real = Walls::stand() ? self::seenByHost($target, $host) : self::seenHere($target, $host);
        foreach (Store::query()->pluck('root') as $root) {
            if ($real === $root || str_starts_with("$real/", rtrim((string) $root, '/').'/')) {
                throw UnableToRestore::targetUnfit($target, 'it lies in a store, beside the archives');
            }
        }
        $home = realpath(Instance::home());
        if (
            $home !== false &&
            str_starts_with("$real/", "$home/") &&
            ! str_starts_with("$real/", "$home/hosts/") &&
            ! str_starts_with("$real/", "$home/restored/")
        ) {
            throw UnableToRestore::targetUnfit($target, 'it lies in the home of Kaiseki itself');
        }
    }

    /**
     * @return string the place it is
     *
     * @throws UnableToRestore
     */
    private static function seenHere(string $target, ?Host $host): string
    {
        $real =
            realpath($target) ?: (realpath(dirname($target)) ?: throw UnableToRestore::targetMissing($target)).'/'.basename($target);
        if (file_exists($target) && ! is_dir($target)) {
            throw UnableToRestore::targetUnfit($target, 'it is no folder');
        }
        $at = rtrim(self::root($host, $target), '/');
        foreach (FolderBelow::partsBetween($at === '' ? '/' : $at, $target) as $part) {
            if (is_link($at .= "/$part")) {
                throw UnableToRestore::throughLink($at);
            }
        }

        return $real;
    }

    /**
     * The same by the process of the host, which goes through no link below what it was given.
     *
     * @throws UnableToRestore
     */
    private static function seenByHost(string $target, ?Host $host): string
    {
        $status = Hosts::look($host, $target, $target)->status('');
        if ($status === null && Hosts::look($host, dirname($target), $target)->status('')?->type !== Status::FOLDER) {
            throw UnableToRestore::targetMissing($target);
        }
        if ($status !== null && $status->type !== Status::FOLDER) {
            throw UnableToRestore::targetUnfit($target, $status->type === Status::SYMLINK ? 'it is a link' : 'it is no folder');
        }

        return $target;
    }

    /** Not there yet, or empty. */
    public static function isNew(string $target): bool
    {
        return Hosts::look(null, $target, self::root(null, $target))->names('') === [];
    }
}
