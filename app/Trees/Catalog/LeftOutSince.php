<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\BackupSet;
use App\Sets\LeftOut;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Protect\Exclusions;
use stdClass;

/** Tells versions that ended because sets leave their paths out from then on, from what is gone. */
final class LeftOutSince
{
    /**
     * @param  array<stdClass>  $rows  of versions: history_id, until, parent_id and name
     * @return array<int|string, true> keys of those that ended so
     */
    public static function among(array $rows): array
    {
        $rules = self::rules($rows);
        $may = array_filter($rows, fn (stdClass $row): bool => isset($rules[(int) $row->history_id][(int) $row->until]));
        if ($may === []) {
            return [];
        }
        $folders = (new CatalogReader)->folderPaths(array_values(array_map(fn (stdClass $row): int => (int) $row->parent_id, $may)));
        $isOne = fn (stdClass $row): bool => $rules[(int) $row->history_id][(int) $row->until]
            ->above(EntryPath::join($folders[(int) $row->parent_id] ?? '', (string) $row->name)) !== null;

        return array_fill_keys(array_keys(array_filter($may, $isOne)), true);
    }

    /**
     * @param  array<stdClass>  $rows
     * @return array<int, array<int, Exclusions>> history => instant => what its set leaves out
     */
    private static function rules(array $rows): array
    {
        $ends = [];
        foreach ($rows as $row) {
            if ((int) $row->until !== PHP_INT_MAX) {
                $ends[(int) $row->history_id][(int) $row->until] = true;
            }
        }
        $rules = [];
        foreach ($ends as $history => $instants) {
            foreach (array_chunk(array_keys($instants), 1_000) as $some) {
                $sets = BackupSet::query()->where('history_id', $history)->whereIn('instant', $some)
                    ->whereRaw("JSON_CONTAINS_PATH(facts, 'one', ?)", ['$.'.LeftOut::FACT])->get(['id', 'instant', 'facts']);
                foreach ($sets as $set) {
                    $rules[$history][(int) $set->instant] = LeftOut::ofSet($set);
                }
            }
        }

        return $rules;
    }
}
