<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\LeftOutSince;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use stdClass;

/** What of a point vanished after it, or changed before it, as paths to be selected. */
final class ChangedPaths
{
    /** A selection of more is no list that anybody reads: a folder is picked instead. */
    public const MOST = 5000;

    /**
     * Things of a point that are in no newer set of its history any more, but for what is left out of that on purpose.
     *
     * @param  int  $since  microseconds since 1970: gone at a point after this
     * @return list<string> the outermost, at most one more than MOST
     */
    public static function vanished(BackupSet $point, int $since): array
    {
        $newest = (int) BackupSet::query()->where('history_id', $point->history_id)->where('cataloged', 'whole')->max('instant');
        $rows = DB::select(
            'SELECT v.path_id, v.parent_id, p.name, v.history_id, (SELECT MAX(l.until) FROM versions l WHERE l.path_id = v.path_id
             AND l.history_id = v.history_id) AS until FROM versions v JOIN paths p ON p.id = v.path_id
             WHERE v.history_id = ? AND v.until > ? AND v.until <= ? AND v.first <= ? AND p.parent_id <> 0
             AND NOT EXISTS (SELECT 1 FROM versions w WHERE w.path_id = v.path_id AND w.history_id = v.history_id AND w.first <= ?
             AND w.until > ?) LIMIT 200000',
            [$point->history_id, max($point->instant, $since), $newest, $point->instant, $newest, $newest],
        );

        return self::outermost(array_values(array_diff_key($rows, LeftOutSince::among($rows))));
    }

    /**
     * Files and links of a point that were new or other than before a moment.
     *
     * @param  int  $from  microseconds since 1970: first seen so at a point after this
     * @return list<string> at most one more than MOST
     */
    public static function changed(BackupSet $point, int $from): array
    {
        return self::outermost(
            DB::select(
                'SELECT v.path_id, v.parent_id, p.name FROM versions v JOIN paths p ON p.id = v.path_id
             WHERE v.history_id = ? AND v.until > ? AND v.first > ? AND v.first <= ? AND v.kind <> \'d\' AND p.parent_id <> 0 LIMIT 200000',
                [$point->history_id, $point->instant, $from, $point->instant],
            ),
        );
    }

    /**
     * @param  array<stdClass>  $rows
     * @return list<string>
     */
    private static function outermost(array $rows): array
    {
        $among = [];
        foreach ($rows as $row) {
            $among[(int) $row->path_id] = (int) $row->parent_id;
        }
        $outer = array_slice(
            array_values(array_filter($rows, fn (stdClass $row): bool => ! isset($among[(int) $row->parent_id]))),
            0,
            self::MOST + 1,
        );
        $folders = (new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->parent_id, $outer));
        $paths = array_map(fn (stdClass $row): string => EntryPath::join($folders[(int) $row->parent_id], $row->name), $outer);
        sort($paths, SORT_STRING);

        return $paths;
    }
}
