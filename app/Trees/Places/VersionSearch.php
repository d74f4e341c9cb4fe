<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\PathKeys;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\Version;
use stdClass;

/** The newest version of each of many paths that can be had, at or before a point. */
final class VersionSearch
{
    private const CHUNK = 500;

    /** @var array<int, string> path key => path, of those that were asked for and not looked up yet */
    private array $wanted = [];

    /** @var array<array-key, list<stdClass>> path => versions, the newest first */
    private array $versions = [];

    /** @var array<string, SetOutline|null> span => the last set in it */
    private array $last = [];

    /**
     * @param  array<string, true>  $lost  HISTORY:PATH:FIRST
     * @param  array<string, true>  $doubtful  HISTORY:PATH:UNTIL
     */
    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $at,
        private readonly array $lost,
        private readonly array $doubtful,
    ) {
    }

    public function want(string $path): void
    {
        $this->wanted[PathKeys::path($this->points->workload->id, $path)] = $path;
    }

    /** @return array{string|null, SetOutline|null} the version, packed, and the newest point at which it was so */
    public function newest(string $path): array
    {
        $this->lookUp();
        foreach ($this->versions[$path] ?? [] as $row) {
            if (
                $row->kind !== 'f' ||
                $row->size < 0 ||
                isset($this->lost["{$row->history_id}:{$row->path_id}:{$row->first}"]) ||
                isset($this->doubtful["{$row->history_id}:{$row->path_id}:{$row->until}"])
            ) {
                continue;
            }
            $from = $this->lastBetween((int) $row->history_id, (int) $row->first, (int) $row->until);
            if ($from !== null) {
                return [Version::join($row->kind, (int) $row->size, (int) $row->mtime, $row->digest, $row->attributes), $from];
            }
        }

        return [null, null];
    }

    private function lookUp(): void
    {
        foreach (array_chunk($this->wanted, self::CHUNK, true) as $chunk) {
            foreach (
                DB::select(
                    'SELECT history_id, path_id, first, until, kind, size, mtime, digest, attributes FROM versions WHERE path_id IN ('.
                        implode(',', array_keys($chunk)).
                        ') AND first <= ? ORDER BY first DESC',
                    [$this->at->instant],
                ) as $row
            ) {
                $this->versions[$chunk[(int) $row->path_id]][] = $row;
            }
        }
        $this->wanted = [];
    }

    private function lastBetween(int $history, int $first, int $until): ?SetOutline
    {
        $key = "$history:$first:$until";
        if (array_key_exists($key, $this->last)) {
            return $this->last[$key];
        }
        $last = null;
        foreach ($this->points->sets as $set) {
            if ($set->history === $history && $set->instant >= $first && $set->instant < $until && $set->instant <= $this->at->instant) {
                $last = $set;
            }
        }

        return $this->last[$key] = $last;
    }
}
