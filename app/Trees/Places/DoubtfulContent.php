<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use stdClass;

/**
 * The versions whose content is in doubt: from the set at which the doubt arose, wherever that content is, until it is
 * replaced. What a person found to be good is not among them.
 */
final class DoubtfulContent
{
    /** @var list<stdClass>|null history_id, first, until, path_id, digest, set_id */
    private ?array $rows = null;

    /** @var array<int, string>|null */
    private ?array $paths = null;

    public function __construct(private readonly Points $points)
    {
    }

    /**
     * @param  list<string>  $paths  only at and below these
     * @return array<int, int> set id => files
     */
    public function countsWithin(array $paths): array
    {
        $spans = new SpanCount;
        foreach ($this->rows() as $row) {
            if ($this->isWithin((int) $row->path_id, $paths)) {
                $spans->add((int) $row->history_id, (int) $row->first, (int) $row->until);
            }
        }

        return $spans->at(array_map(fn (SetOutline $set): array => [$set->history, $set->instant], $this->points->sets));
    }

    /** @return array<array-key, int> path => id of the set at which the doubt arose, of what is in doubt at a set */
    public function at(SetOutline $set): array
    {
        $found = [];
        foreach ($this->rows() as $row) {
            if ((int) $row->history_id === $set->history && $row->first <= $set->instant && $row->until > $set->instant) {
                $found[$this->paths()[(int) $row->path_id]] = (int) $row->set_id;
            }
        }
        ksort($found, SORT_STRING);

        return $found;
    }

    /** @return array<string, true> HISTORY:PATH:UNTIL of the versions that are, or came to be, in doubt */
    public function versions(): array
    {
        $versions = [];
        foreach ($this->rows() as $row) {
            $versions["{$row->history_id}:{$row->path_id}:{$row->until}"] = true;
        }

        return $versions;
    }

    /** @return list<int> ids of the sets at which doubt arose that holds still, those from which much was missing among them */
    public function raisedAt(): array
    {
        $ids = array_map(fn (stdClass $row): int => (int) $row->set_id, $this->rows());
        foreach (
            DB::select(
                "SELECT g.set_id FROM signs g JOIN sets s ON s.id = g.set_id WHERE s.workload_id = ? AND g.doubts AND g.kind = 'fewer'
             AND COALESCE((SELECT verdict FROM verdicts WHERE set_id = g.set_id ORDER BY id DESC LIMIT 1), '') <> 'good'",
                [$this->points->workload->id],
            ) as $row
        ) {
            $ids[] = (int) $row->set_id;
        }

        return array_values(array_unique($ids));
    }

    /**
     * @return list<stdClass>
     */
    public static function rowsOf(Workload $workload): array
    {
        return array_values(
            DB::select(
                "SELECT v.history_id, GREATEST(v.first, s.instant) AS first, v.until, v.path_id, d.digest, d.set_id
             FROM doubts d JOIN sets s ON s.id = d.set_id JOIN versions v ON v.digest = d.digest JOIN histories h ON h.id = v.history_id
             AND h.workload_id = d.workload_id
             WHERE d.workload_id = ? AND v.until > s.instant AND v.kind = 'f' AND (d.path_id = 0 OR d.path_id = v.path_id)
             AND COALESCE((SELECT verdict FROM verdicts WHERE set_id = d.set_id ORDER BY id DESC LIMIT 1), '') <> 'good'",
                [$workload->id],
            ),
        );
    }

    /** @return list<stdClass> */
    private function rows(): array
    {
        return $this->rows ??= self::rowsOf($this->points->workload);
    }

    /** @param  list<string>  $paths */
    private function isWithin(int $key, array $paths): bool
    {
        foreach ($paths as $path) {
            if (EntryPath::isWithin($this->paths()[$key], $path)) {
                return true;
            }
        }

        return false;
    }

    /** @return array<int, string> */
    private function paths(): array
    {
        return $this->paths ??= (new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->path_id, $this->rows()));
    }
}
