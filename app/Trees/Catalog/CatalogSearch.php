<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Library\DocumentRecord;
use stdClass;

/**
 * Finds versions in the catalog. Names are looked for in the list of names, words in the index of texts; what is left is
 * asked of the versions that these leave. See docs/decisions/0017-search.md.
 */
final class CatalogSearch
{
    /** Names that are taken from the list at once, and for how many of them versions are asked for in one query. */
    private const NAMES = 5000;

    private const AT_ONCE = 250;

    /** Versions of records of documents that are looked at, at most. */
    private const RECORDS = 100_000;

    /** Contents with the words that are looked at, at most. */
    private const CONTENTS = 5000;

    /**
     * @return list<FoundVersion> by name, newest first within each path
     */
    public function find(Workload $workload, SearchQuery $query, int $limit = 1000): array
    {
        if ($query->author !== '') {
            return $this->byAuthor($workload, $query, $limit);
        }
        [$where, $bindings] = self::conditions($query);
        $digests = $query->text === '' ? null : TextIndex::matching($query->text, self::CONTENTS);
        if ($query->name === '') {
            return match (true) {
                $digests === null => $this->byAttributes($workload, $where, $bindings, $limit),
                default => $this->byContents($workload, $digests, $where, $bindings, $limit),
            };
        }

        return $this->byNames(
            $workload,
            $query->name,
            $digests === null ? null : array_fill_keys($digests, true),
            $where,
            $bindings,
            $limit,
        );
    }

    /** @return list<FoundVersion> */
    private function byAuthor(Workload $workload, SearchQuery $query, int $limit): array
    {
        [$where, $bindings] = self::conditions(new SearchQuery(kind: EntryKind::File, from: $query->from, to: $query->to));
        $records = $this->byNames($workload, DocumentRecord::pathOf('*'), null, $where, $bindings, self::RECORDS);
        $digests = $query->text === '' ? null : array_fill_keys(TextIndex::matching($query->text, self::CONTENTS), true);
        $found = [];
        foreach ((new DocumentAuthors($records, $query->author))->documents($workload) as $version) {
            $isThen = $version->until > ($query->from ?? PHP_INT_MIN) && $version->first <= ($query->to ?? PHP_INT_MAX);
            $hasWords = $digests === null || isset($digests[(string) $version->version->digest]);
            if ($isThen && $hasWords && $query->fits($version->path, $version->version)) {
                $found[] = $version;
            }
            if (count($found) >= $limit) {
                break;
            }
        }

        return $found;
    }

    /**
     * @param  array<string, true>|null  $digests
     * @param  list<int|string>  $bindings
     * @return list<FoundVersion>
     */
    private function byNames(Workload $workload, string $pattern, ?array $digests, string $where, array $bindings, int $limit): array
    {
        $isGlob = strpbrk($pattern, '*?') !== false;
        $slash = strrpos($pattern, '/');
        $list = CatalogNames::of($workload->id);
        $found = [];
        $after = null;
        do {
            $names = $list->matching($slash === false ? $pattern : substr($pattern, $slash + 1), self::NAMES, $after);
            foreach (array_chunk($names, self::AT_ONCE) as $some) {
                foreach (
                    $this->rows(
                        $workload,
                        'p.name_id IN ('.implode(',', array_map(PathKeys::name(...), $some)).') AND '.$where,
                        $bindings,
                        $digests === null && $slash === false ? $limit - count($found) : PHP_INT_MAX,
                    ) as $version
                ) {
                    if (
                        ($digests === null || isset($digests[(string) $version->version->digest])) &&
                        ($slash === false ||
                            fnmatch(
                                $isGlob ? "*$pattern" : '*'.addcslashes($pattern, '[]\\').'*',
                                $version->path,
                                $isGlob ? 0 : FNM_CASEFOLD,
                            ))
                    ) {
                        $found[] = $version;
                    }
                }
                if (count($found) >= $limit) {
                    return array_slice($found, 0, $limit);
                }
            }
            $after = $names === [] ? null : $names[count($names) - 1];
        } while (count($names) === self::NAMES);

        return $found;
    }

    /**
     * @param  list<string>  $digests
     * @param  list<int|string>  $bindings
     * @return list<FoundVersion>
     */
    private function byContents(Workload $workload, array $digests, string $where, array $bindings, int $limit): array
    {
        $found = [];
        foreach (array_chunk($digests, self::AT_ONCE) as $some) {
            array_push(
                $found,
                ...$this->rows(
                    $workload,
                    'v.digest IN ('.implode(',', array_fill(0, count($some), '?')).') AND '.$where,
                    [...$some, ...$bindings],
                    $limit - count($found),
                ),
            );
            if (count($found) >= $limit) {
                break;
            }
        }

        return $found;
    }

    /**
     * @param  list<int|string>  $bindings
     * @return list<FoundVersion>
     */
    private function byAttributes(Workload $workload, string $where, array $bindings, int $limit): array
    {
        $histories = $workload->histories()->pluck('id')->all();

        return $histories === []
            ? []
            : $this->rows($workload, 'v.history_id IN ('.implode(',', $histories).') AND '.$where, $bindings, $limit);
    }

    /**
     * @param  list<int|string>  $bindings
     * @return list<FoundVersion>
     */
    private function rows(Workload $workload, string $where, array $bindings, int $limit): array
    {
        $rows = DB::select(
            "SELECT v.path_id, v.parent_id, p.name, v.first, v.until, v.kind, v.size, v.mtime, v.digest, v.attributes
             FROM paths p JOIN versions v ON v.path_id = p.id
             WHERE $where AND p.workload_id = ? AND p.parent_id <> 0 ORDER BY p.name, v.path_id, v.first DESC LIMIT ?",
            [...$bindings, $workload->id, $limit],
        );
        $folders = (new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->parent_id, $rows));

        return array_map(
            fn (stdClass $row): FoundVersion => new FoundVersion(
                EntryPath::join($folders[(int) $row->parent_id], $row->name),
                (int) $row->first,
                (int) $row->until,
                Version::fromColumns($row->kind, (int) $row->size, (int) $row->mtime, $row->digest, $row->attributes),
            ),
            $rows,
        );
    }

    /** @return array{string, list<int|string>} */
    private static function conditions(SearchQuery $query): array
    {
        $where = ['v.until > ?', 'v.first <= ?'];
        $bindings = [$query->from ?? PHP_INT_MIN, $query->to ?? PHP_INT_MAX];
        foreach (
            [
                'v.size >= ?' => $query->sizeFrom,
                'v.size <= ?' => $query->sizeTo,
                'v.mtime >= ?' => $query->changedFrom,
                'v.mtime <= ?' => $query->changedTo,
                'v.kind = ?' => $query->kind?->value,
            ] as $condition => $value
        ) {
            if ($value !== null) {
                $where[] = $condition;
                $bindings[] = $value;
            }
        }
        if ($query->sizeFrom !== null || $query->sizeTo !== null) {
            $where[] = "v.kind = 'f' AND v.size >= 0";
        }
        if ($query->owner !== '') {
            // As Version::attributes() packs them: mode, uid, gid, link group, flags, and then the name of the user with its length.
            $isNumber = ctype_digit($query->owner);
            $where[] = $isNumber ? 'SUBSTRING(v.attributes, 5, 4) = ?' : 'SUBSTRING(v.attributes, 22, ?) = ?';
            array_push(
                $bindings,
                ...$isNumber
                    ? [pack('V', (int) $query->owner)]
                    : [1 + strlen($query->owner), chr(min(255, strlen($query->owner))).$query->owner],
            );
        }

        return [implode(' AND ', $where), $bindings];
    }
}
