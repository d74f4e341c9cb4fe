<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use App\Trees\TreeJudge;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use stdClass;

/**
 * The best tree that can be had at a point, put together across points: each file as it is there where its content can
 * be read (and, if asked for, is not in doubt), else its newest earlier version of which that is true. Files that
 * vanished in a night that left doubt are given back too.
 */
final readonly class BestTree
{
    private const MOST = 1_000_000;

    /** @param  list<BestEntry>  $entries sorted by path */
    private function __construct(public SetOutline $at, public array $entries, public int $unchanged)
    {
    }

    /**
     * @param  list<string>  $paths  only at and below these
     * @param  bool  $clear  whether what is in doubt is left for an older version
     */
    public static function of(Points $points, SetOutline $at, array $paths, bool $clear): self
    {
        $doubt = new DoubtfulContent($points);
        $within = fn (string $path): bool => array_filter($paths, fn (string $above): bool => EntryPath::isWithin($path, $above)) !== [];
        $wrong = [];
        foreach (TreeJudge::of($points)->lost()->pathsAt($at, $paths, self::MOST) as $path) {
            $wrong[$path] = 'its content is in no archive that can be read';
        }
        foreach ($clear ? $doubt->at($at) : [] as $path => $set) {
            if ($within((string) $path)) {
                $wrong[$path] ??= 'its content is in doubt since '.($points->sets[$set]->name ?? 'a set that expired');
            }
        }
        $gone = $clear
            ? array_diff_key(array_filter(self::vanished($points, $at, $doubt->raisedAt()), $within, ARRAY_FILTER_USE_KEY), $wrong)
            : [];
        $search = new VersionSearch($points, $at, TreeJudge::of($points)->lost()->versions(), $clear ? $doubt->versions() : []);
        $entries = [];
        foreach ([...array_map(strval(...), array_keys($wrong)), ...array_map(strval(...), array_keys($gone))] as $path) {
            $search->want($path);
        }
        foreach ($wrong as $path => $because) {
            [$packed, $from] = $search->newest((string) $path);
            $entries[] = new BestEntry((string) $path, $packed === null ? 'lost' : 'older', $because, $packed, $from);
        }
        foreach ($gone as $path => $set) {
            [$packed, $from] = $search->newest((string) $path);
            if ($packed !== null) {
                $entries[] = new BestEntry(
                    (string) $path,
                    'returned',
                    "it was damaged or vanished with {$points->sets[$set]->name}, and is not there any more",
                    $packed,
                    $from,
                );
            }
        }
        usort($entries, fn (BestEntry $a, BestEntry $b): int => strcmp($a->path, $b->path));

        return new self($at, $entries, max(0, self::countFiles($points, $at, $paths) - count($wrong)));
    }

    public function count(string $state): int
    {
        return count(array_filter($this->entries, fn (BestEntry $entry): bool => $entry->state === $state));
    }

    /**
     * The entries of the point with the others in their place.
     *
     * @param  array<array-key, string>  $items  path => packed version, folders before what is in them
     * @return array<array-key, string>
     */
    public function applyTo(array $items, Points $points): array
    {
        $reader = new CatalogReader;
        foreach ($this->entries as $entry) {
            if ($entry->packed === null) {
                unset($items[$entry->path]);

                continue;
            }
            $above = [];
            for (
                $folder = EntryPath::split($entry->path)[0];
                $folder !== '' && ! isset($items[$folder]);
                [$folder] = EntryPath::split($folder)
            ) {
                $above[] = $folder;
            }
            foreach (array_reverse($above) as $folder) {
                $packed = $entry->from === null ? null : $reader->at($points->model($entry->from), $folder);
                if ($packed !== null && $packed[0] === 'd') {
                    $items[$folder] = $packed;
                }
            }
            $items[$entry->path] = $entry->packed;
        }

        return $items;
    }

    /**
     * The same as a stream, without the folders above what is given back: enough for counting and planning.
     *
     * @param  iterable<string, string>  $entries  path => packed version
     * @return iterable<string, string>
     */
    public function over(iterable $entries): iterable
    {
        $own = [];
        foreach ($this->entries as $entry) {
            $own[$entry->path] = true;
        }
        foreach ($entries as $path => $packed) {
            if (! isset($own[$path])) {
                yield $path => $packed;
            }
        }
        foreach ($this->entries as $entry) {
            if ($entry->packed !== null) {
                yield $entry->path => $entry->packed;
            }
        }
    }

    /** @param  list<string>  $paths */
    private static function countFiles(Points $points, SetOutline $at, array $paths): int
    {
        if ($paths === [''] || $paths === []) {
            return $at->treeFiles;
        }
        $files = 0;
        foreach ((new CatalogReader)->entriesBelow($points->model($at), $paths) as $packed) {
            $files += $packed[0] === 'f' ? 1 : 0;
        }

        return $files;
    }

    /**
     * @param  list<int>  $raised  ids of the sets at which doubt arose
     * @return array<array-key, int> path => id of the set with which it vanished or became another, of files that are not there at the
     *     point
     */
    private static function vanished(Points $points, SetOutline $at, array $raised): array
    {
        $gone = [];
        foreach ($raised as $id) {
            $set = $points->sets[$id] ?? null;
            if ($set === null || $set->history !== $at->history || $set->instant > $at->instant) {
                continue;
            }
            $rows = DB::select(
                "SELECT v.path_id FROM versions v WHERE v.history_id = ? AND v.until = ? AND v.kind = 'f'
                 AND NOT EXISTS (SELECT 1 FROM versions w WHERE w.path_id = v.path_id AND w.history_id = v.history_id AND w.first <= ?
                 AND w.until > ?)",
                [$set->history, $set->instant, $at->instant, $at->instant],
            );
            foreach ((new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->path_id, $rows)) as $key => $path) {
                if ($key !== 0) {
                    $gone[$path] = $id;
                }
            }
        }

        return $gone;
    }
}
