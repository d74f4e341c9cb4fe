<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Instance;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\DigestList;
use App\Trees\Catalog\PathKeys;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;

/**
 * The versions that no archive gives any more: a set without a readable copy costs only what lies in no other set. It is
 * reckoned from the state of the copies, and kept beside the catalog for as long as exactly those sets are unreadable.
 */
final class LostContent
{
    /** Of a kept row: history, first, until, path; 64 bits each. */
    private const ROW = 32;

    /** @var list<int> ids of sets without a readable copy */
    private readonly array $unreadable;

    /** @var list<int> histories with sets of which not all is known */
    private readonly array $historiesInPart;

    /** @var array<int, array<array-key, true>>|null copy id => digests that it no longer gives, of damaged copies of which that is known */
    private ?array $touched = null;

    /** @var array<int, int>|null set id => files that are lost at it */
    private ?array $counts = null;

    private ?string $rows = null;

    /** @var array<int, string>|null path key => path */
    private ?array $paths = null;

    public function __construct(private readonly Points $points)
    {
        $unreadable = $inPart = [];
        foreach ($points->sets as $set) {
            if (! $set->isReadable()) {
                $unreadable[] = $set->id;
            }
            if ($set->cataloged === 'part') {
                $inPart[$set->history] = true;
            }
        }
        $this->unreadable = $unreadable;
        $this->historiesInPart = array_keys($inPart);
    }

    public function isNothingUnreadable(): bool
    {
        return $this->unreadable === [];
    }

    public function isNone(): bool
    {
        return $this->counts() === [];
    }

    /** @return array<int, int> set id => files that are lost at it; sets that are whole are left out */
    public function counts(): array
    {
        return $this->counts ??= $this->isSound() ? [] : $this->kept();
    }

    /**
     * @param  list<string>  $paths  only at and below these
     * @return array<int, int> set id => files
     */
    public function countsWithin(array $paths): array
    {
        return $this->isNone() ? [] : $this->countAt(implode('', iterator_to_array($this->within($paths), false)));
    }

    /**
     * @param  list<string>|null  $paths  only at and below these; null for all
     * @return list<string> the paths of what is lost at a set, sorted
     */
    public function pathsAt(SetOutline $set, ?array $paths = null, int $limit = 1000): array
    {
        $lost = [];
        foreach ($this->isNone() ? [] : $this->within($paths) as $row) {
            ['history' => $history, 'first' => $first, 'until' => $until, 'path' => $path] = self::unpack($row);
            if ($history === $set->history && $first <= $set->instant && $until > $set->instant) {
                $lost[] = $this->paths()[$path];
                if (count($lost) >= $limit) {
                    break;
                }
            }
        }
        sort($lost, SORT_STRING);

        return $lost;
    }

    /** @return array<array-key, true>|null the digests that a damaged copy no longer gives; null if that is not known */
    public function touchedIn(int $copy): ?array
    {
        return $this->touched()[$copy] ?? null;
    }

    /** @return array<int, array<array-key, true>> */
    private function touched(): array
    {
        if ($this->touched !== null) {
            return $this->touched;
        }
        $this->touched = [];
        foreach ($this->unreadable as $id) {
            foreach ($this->points->sets[$id]->copies as $copy) {
                if ($copy->isPartlyReadable) {
                    $this->touched[$copy->id] = [];
                }
            }
        }
        foreach (
            $this->touched === []
                ? []
                : DB::select(
                    'SELECT copy_id, digest FROM damaged_contents WHERE copy_id IN ('.
                        implode(',', array_keys($this->touched)).
                        ') ORDER BY copy_id, digest',
                ) as $row
        ) {
            $this->touched[(int) $row->copy_id][$row->digest] = true;
        }

        return $this->touched;
    }

    /** @return array<int, array<array-key, true>> set id => what none of its damaged copies gives */
    private function touchedInAll(): array
    {
        $sets = [];
        foreach ($this->unreadable as $id) {
            foreach ($this->points->sets[$id]->copies as $copy) {
                $touched = $this->touchedIn($copy->id);
                if ($touched !== null) {
                    $sets[$id] = isset($sets[$id]) ? array_intersect_key($sets[$id], $touched) : $touched;
                }
            }
        }

        return $sets;
    }

    /** @return array<string, true> HISTORY:PATH:FIRST of the versions that no archive gives */
    public function versions(): array
    {
        $versions = [];
        foreach ($this->isNone() ? [] : $this->within(null) as $row) {
            ['history' => $history, 'first' => $first, 'path' => $path] = self::unpack($row);
            $versions["$history:$path:$first"] = true;
        }

        return $versions;
    }

    private function isSound(): bool
    {
        return $this->unreadable === [] && $this->historiesInPart === [];
    }

    /** @return array<int, int> */
    private function kept(): array
    {
        $file = Instance::folder('cache')."/lost-{$this->points->workload->id}";
        $newest = $this->points->newest();
        $of = hash(
            'xxh128',
            implode(',', $this->unreadable).
                ';'.
                count($this->points->sets).
                ';'.
                $newest?->id.
                ';'.
                implode(',', $this->historiesInPart).
                ';'.
                implode(';', array_map(fn (array $digests): string => implode(array_keys($digests)), $this->touched())),
        );
        $kept = (string) @file_get_contents($file);
        $end = strpos($kept, "\n");
        $head = $end === false ? null : json_decode(substr($kept, 0, $end), true);
        if (is_array($head) && $head['of'] === $of && strlen($kept) === $end + 1 + $head['rows'] * self::ROW) {
            $this->rows = substr($kept, $end + 1);

            return $head['counts'];
        }
        $this->rows = $this->find();
        $counts = $this->countAt($this->rows);
        $partial = "$file.".getmypid();
        if (
            @file_put_contents(
                $partial,
                json_encode(['of' => $of, 'rows' => intdiv(strlen($this->rows), self::ROW), 'counts' => $counts])."\n".$this->rows,
            ) !== false
        ) {
            rename($partial, $file);
        }

        return $counts;
    }

    private function find(): string
    {
        $rows = '';
        $histories = implode(',', array_unique(array_map(fn (SetOutline $set): int => $set->history, $this->points->sets)));
        foreach (
            array_chunk((new BridgeSearch($this->points->sets, $this->touchedInAll()))->lostDigests($this->unreadable), 500) as $chunk
        ) {
            $list = DigestList::sql($chunk);
            $rows .= self::rowsWhere("digest IN ($list) AND history_id IN ($histories)");
        }
        foreach ($this->historiesInPart as $history) {
            $rows .= self::rowsWhere("history_id = $history AND kind = 'f' AND size < 0");
        }

        return $rows;
    }

    private static function rowsWhere(string $where): string
    {
        $rows = '';
        foreach (DB::select("SELECT history_id, first, until, path_id FROM versions WHERE $where") as $row) {
            $rows .= pack('JJJJ', $row->history_id, $row->first, $row->until, $row->path_id);
        }

        return $rows;
    }

    /** @return array<int, int> set id => versions that are so at it */
    private function countAt(string $rows): array
    {
        $spans = new SpanCount;
        foreach ($rows === '' ? [] : str_split($rows, self::ROW) as $row) {
            ['history' => $history, 'first' => $first, 'until' => $until] = self::unpack($row);
            $spans->add($history, $first, $until);
        }

        return $spans->at(array_map(fn (SetOutline $set): array => [$set->history, $set->instant], $this->points->sets));
    }

    /**
     * @param  list<string>|null  $paths
     * @return iterable<string>
     */
    private function within(?array $paths): iterable
    {
        $rows = $this->rows === null || $this->rows === '' ? [] : str_split($this->rows, self::ROW);
        if ($paths === null || in_array('', $paths, true)) {
            yield from $rows;

            return;
        }
        $exact = [];
        foreach ($paths as $path) {
            $exact[PathKeys::path($this->points->workload->id, $path)] = true;
        }
        foreach ($rows as $row) {
            $path = self::unpack($row)['path'];
            if (
                isset($exact[$path]) ||
                array_filter($paths, fn (string $above): bool => EntryPath::isWithin($this->paths()[$path], $above)) !== []
            ) {
                yield $row;
            }
        }
    }

    /** @return array<int, string> */
    private function paths(): array
    {
        return $this->paths ??= (new CatalogReader)->folderPaths(
            array_map(
                fn (string $row): int => self::unpack($row)['path'],
                $this->rows === null || $this->rows === '' ? [] : str_split($this->rows, self::ROW),
            ),
        );
    }

    /** @return array{history: int, first: int, until: int, path: int} */
    private static function unpack(string $row): array
    {
        /** @var array{history: int, first: int, until: int, path: int} */
        return unpack('Jhistory/Jfirst/Juntil/Jpath', $row);
    }
}
