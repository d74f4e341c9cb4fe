<?php

declare(strict_types=1);

namespace App\Estate;

use App\Catalog\CatalogReader;
use App\Models\BackupSet;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\PlaceIndex;
use RuntimeException;

/**
 * The versions that no archive gives any more: a set without a readable copy costs only what lies in no other set.
 * Computed each time from the state of the copies.
 */
final class LostContent
{
    /** @var list<array{history: int, first: int, until: int, parent: int, name: string}> */
    private array $versions = [];

    /** @var array<int, string>|null */
    private ?array $folders = null;

    /**
     * @param  Collection<int, BackupSet>  $sets  of one workload
     * @param  callable(BackupSet): bool  $isReadable
     */
    public function __construct(Collection $sets, callable $isReadable)
    {
        $readable = $sets->filter(fn (BackupSet $set): bool => $isReadable($set));
        $unreadable = $sets->reject(fn (BackupSet $set): bool => $isReadable($set));
        foreach (array_chunk($this->lostDigests($readable, $unreadable), 500) as $chunk) {
            $list = implode(',', array_map(fn (string $digest): string => "x'".bin2hex($digest)."'", $chunk));
            $this->take("v.digest IN ($list) AND v.history_id IN (".$sets->pluck('history_id')->unique()->implode(',').')');
        }
        foreach ($sets->where('cataloged', 'part')->pluck('history_id')->unique() as $history) {
            $this->take("v.history_id = $history AND v.kind = 'f' AND v.size < 0");
        }
    }

    public function isNone(): bool
    {
        return $this->versions === [];
    }

    /**
     * How many are missing at each set.
     *
     * @param  Collection<int, BackupSet>  $sets
     * @param  list<string>|null  $paths  only at and below these; null for all
     * @return array<int, int> set id => files; sets without any are left out
     */
    public function countAt(Collection $sets, ?array $paths = null): array
    {
        $counts = [];
        foreach ($this->within($paths) as $lost) {
            foreach ($sets as $set) {
                if ($set->history_id === $lost['history'] && $lost['first'] <= $set->instant && $lost['until'] > $set->instant) {
                    $counts[$set->id] = ($counts[$set->id] ?? 0) + 1;
                }
            }
        }

        return $counts;
    }

    /**
     * @param  list<string>|null  $paths
     * @return list<string> the paths of what is missing at a set
     */
    public function pathsAt(BackupSet $set, ?array $paths = null, int $limit = 1000): array
    {
        $missing = [];
        foreach ($this->within($paths) as $lost) {
            if ($set->history_id === $lost['history'] && $lost['first'] <= $set->instant && $lost['until'] > $set->instant) {
                $missing[] = $this->path($lost);
                if (count($missing) >= $limit) {
                    break;
                }
            }
        }
        sort($missing, SORT_STRING);

        return $missing;
    }

    /**
     * @param  Collection<int, BackupSet>  $readable
     * @param  Collection<int, BackupSet>  $unreadable
     * @return list<string>
     */
    private function lostDigests(Collection $readable, Collection $unreadable): array
    {
        $open = [];
        $lost = [];
        foreach ($unreadable as $set) {
            try {
                $digests = PlaceIndex::open(SetFiles::placeIndex($set))->digests();
            } catch (RuntimeException) {
                continue;
            }
            foreach ($digests as $digest) {
                $lost[$digest] = true;
                foreach ($readable as $other) {
                    $open[$other->id] ??= self::index($other);
                    if ($open[$other->id]?->find($digest) !== null) {
                        unset($lost[$digest]);
                        break;
                    }
                }
            }
        }

        return array_map(strval(...), array_keys($lost));
    }

    private static function index(BackupSet $set): ?PlaceIndex
    {
        try {
            return PlaceIndex::open(SetFiles::placeIndex($set));
        } catch (RuntimeException) {
            return null;
        }
    }

    private function take(string $where): void
    {
        foreach (DB::select("SELECT v.history_id, v.first, v.until, v.parent_id, p.name FROM versions v JOIN paths p ON p.id = v.path_id WHERE $where") as $row) {
            $this->versions[] = ['history' => (int) $row->history_id, 'first' => (int) $row->first, 'until' => (int) $row->until, 'parent' => (int) $row->parent_id, 'name' => $row->name];
        }
    }

    /**
     * @param  list<string>|null  $paths
     * @return iterable<array{history: int, first: int, until: int, parent: int, name: string}>
     */
    private function within(?array $paths): iterable
    {
        foreach ($this->versions as $lost) {
            if ($paths === null || in_array('', $paths, true) || array_filter($paths, fn (string $path): bool => EntryPath::isWithin($this->path($lost), $path)) !== []) {
                yield $lost;
            }
        }
    }

    /** @param  array{history: int, first: int, until: int, parent: int, name: string}  $lost */
    private function path(array $lost): string
    {
        $this->folders ??= (new CatalogReader)->folderPaths(array_column($this->versions, 'parent'));

        return EntryPath::join($this->folders[$lost['parent']], $lost['name']);
    }
}
