<?php

declare(strict_types=1);

namespace App\Hosts;

use Carbon\CarbonImmutable;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Status;
use Throwable;

/**
 * What lies in the bins of a host's volume, as the Trash specification of freedesktop.org (1.0) lays them out at its
 * top: .Trash-UID, or .Trash/UID, with `files` and a .trashinfo for each of them in `info`.
 */
final class HostBin
{
    private const MOST = 2000;

    private const LARGEST_INFO = 65_536;

    /**
     * @param  string  $zone  of the host: the specification has local times
     * @return list<BinEntry> the last deleted first
     */
    public static function of(Look $look, string $zone): array
    {
        $entries = [];
        foreach (self::bins($look) as $bin) {
            foreach (array_slice($look->names("$bin/info"), 0, self::MOST) as $info) {
                $status = str_ends_with($info, '.trashinfo') ? $look->status("$bin/info/$info") : null;
                if ($status?->type !== Status::FILE || $status->size > self::LARGEST_INFO) {
                    continue;
                }
                $entry = self::entry($look, $bin, substr($info, 0, -10), self::head($look, "$bin/info/$info"), $zone);
                if ($entry !== null) {
                    $entries[] = $entry;
                }
            }
        }
        usort($entries, fn (BinEntry $a, BinEntry $b): int => $b->deletedAt <=> $a->deletedAt);

        return $entries;
    }

    private static function head(Look $look, string $path): string
    {
        $stream = $look->read($path);
        $head = $stream === null ? '' : (string) stream_get_contents($stream, self::LARGEST_INFO);
        $stream === null || fclose($stream);

        return $head;
    }

    /** @return list<string> */
    private static function bins(Look $look): array
    {
        $bins = array_values(array_filter($look->names(''), fn (string $name): bool => preg_match('/^\.Trash-\d+$/D', $name) === 1));
        foreach ($look->names('.Trash') as $user) {
            if (ctype_digit($user)) {
                $bins[] = ".Trash/$user";
            }
        }

        return $bins;
    }

    private static function entry(Look $look, string $bin, string $name, string $info, string $zone): ?BinEntry
    {
        if (
            ! str_starts_with($info, '[Trash Info]') ||
            preg_match('/^Path=(.+)$/m', $info, $path) !== 1 ||
            preg_match('/^DeletionDate=(\S+)$/m', $info, $date) !== 1
        ) {
            return null;
        }
        $status = $look->status("$bin/files/$name");
        try {
            return $status === null
                ? null
                : new BinEntry(
                    EntryPath::of(rawurldecode(trim($path[1]))),
                    "$bin/files/$name",
                    "$bin/info/$name.trashinfo",
                    CarbonImmutable::parse($date[1], $zone),
                    $status,
                );
        } catch (Throwable) {
            return null;
        }
    }
}
