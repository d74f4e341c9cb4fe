<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;
use PDO;
use stdClass;

/** Answers from the catalog. Nothing here reads more of it than the answer is long. */
final class CatalogReader
{
    /** The whole tree at a set. */
    public function tree(BackupSet $set): Tree
    {
        $tree = new Tree;
        foreach ($this->entriesBelow($set, ['']) as $path => $packed) {
            $tree->put($path, $packed);
        }

        return $tree;
    }

    /** The version of a path at a set, packed; null if it was not there. */
    public function at(BackupSet $set, string $path): ?string
    {
        $row = DB::selectOne(
            'SELECT kind, size, mtime, digest, attributes FROM versions WHERE path_id = ? AND first <= ? AND until > ? AND history_id = '.
                '? LIMIT 1',
            [PathKeys::path($set->workload_id, $path), $set->instant, $set->instant, $set->history_id],
        );

        return $row === null ? null : self::packed($row);
    }

    /** Whether there is such a folder or thing at a set; the top always is. */
    public function has(BackupSet $set, string $path): bool
    {
        return $path === '' || $this->at($set, $path) !== null;
    }

    /**
     * The children of a folder, folders first.
     *
     * @param  string  $begins  only names that begin so, in any case
     * @return list<CatalogChild>
     */
    public function children(
        BackupSet $set,
        string $folder,
        int $limit = 1000,
        int $offset = 0,
        ChildOrder $order = ChildOrder::Name,
        bool $descending = false,
        string $begins = '',
    ): array {
        [$where, $bindings] = self::childrenOf($set, $folder, $begins);
        if ($order->isOfTotals()) {
            return $this->childrenBySize($set, $folder, $where, $bindings, $limit, $offset, $order, $descending);
        }
        $rows = DB::select(
            "SELECT v.path_id, p.name, v.kind, v.size, v.mtime, v.digest, v.attributes FROM versions v JOIN paths p ON p.id = v.path_id
             WHERE $where ORDER BY v.kind <> 'd', {$order->column()} ".
                ($descending ? 'DESC' : 'ASC').
                ', p.name LIMIT ? OFFSET ?',
            [...$bindings, $limit, $offset],
        );

        return $this->withTotals($set, $folder, $rows);
    }

    public function countChildren(BackupSet $set, string $folder, string $begins = ''): int
    {
        [$where, $bindings] = self::childrenOf($set, $folder, $begins);

        return (int) DB::scalar(
            'SELECT COUNT(*) FROM versions v '.($begins === '' ? '' : 'JOIN paths p ON p.id = v.path_id ')."WHERE $where",
            $bindings,
        );
    }

    /**
     * What is below a folder is no column, so all folders are put in order here, and the files by the server.
     *
     * @param  list<int|string>  $bindings
     * @return list<CatalogChild>
     */
    private function childrenBySize(
        BackupSet $set,
        string $folder,
        string $where,
        array $bindings,
        int $limit,
        int $offset,
        ChildOrder $order,
        bool $descending,
    ): array {
        $from =
            'SELECT v.path_id, p.name, v.kind, v.size, v.mtime, v.digest, v.attributes FROM versions v JOIN paths p ON p.id = v.path_id';
        $folders = $this->withTotals($set, $folder, DB::select("$from WHERE $where AND v.kind = 'd' ORDER BY p.name", $bindings));
        $sign = $descending ? -1 : 1;
        usort(
            $folders,
            fn (CatalogChild $a, CatalogChild $b): int => $sign *
            ($order === ChildOrder::Files ? $a->files <=> $b->files : $a->bytes <=> $b->bytes) ?:
            strcmp($a->name, $b->name),
        );
        $page = array_slice($folders, $offset, $limit);
        $files =
            count($page) >= $limit
                ? []
                : DB::select(
                    "$from WHERE $where AND v.kind <> 'd' ORDER BY v.size ".($descending ? 'DESC' : 'ASC').', p.name LIMIT ? OFFSET ?',
                    [...$bindings, $limit - count($page), max(0, $offset - count($folders))],
                );

        return [...$page, ...$this->withTotals($set, $folder, $files)];
    }

    /**
     * @param  array<stdClass>  $rows
     * @return list<CatalogChild>
     */
    private function withTotals(BackupSet $set, string $folder, array $rows): array
    {
        $totals = $this->totals(
            $set,
            array_map(
                fn (stdClass $row): int => (int) $row->path_id,
                array_values(array_filter($rows, fn (stdClass $row): bool => $row->kind === 'd')),
            ),
        );

        return array_values(
            array_map(
                fn (stdClass $row): CatalogChild => new CatalogChild(
                    $row->name,
                    EntryPath::join($folder, $row->name),
                    Version::fromColumns($row->kind, (int) $row->size, (int) $row->mtime, $row->digest, $row->attributes),
                    ...$totals[(int) $row->path_id] ?? [0, 0],
                ),
                $rows,
            ),
        );
    }

    /** @return array{string, list<int|string>} */
    private static function childrenOf(BackupSet $set, string $folder, string $begins): array
    {
        $bindings = [PathKeys::path($set->workload_id, $folder), $set->instant, $set->instant, $set->history_id];
        // Names are bytes: compared as letters only where they are some.
        $like = ' AND CONVERT(p.name USING utf8mb4) COLLATE utf8mb4_general_ci LIKE ?';

        return [
            'v.parent_id = ? AND v.until > ? AND v.first <= ? AND v.history_id = ?'.($begins === '' ? '' : $like),
            $begins === '' ? $bindings : [...$bindings, addcslashes($begins, '%_\\').'%'],
        ];
    }

    /** @return array{int, int} files and bytes below a folder */
    public function total(BackupSet $set, string $folder): array
    {
        $key = PathKeys::path($set->workload_id, $folder);

        return $this->totals($set, [$key])[$key] ?? [0, 0];
    }

    /**
     * The entries at and below some paths, a folder before what is in it, as path => packed version.
     *
     * @param  list<string>  $paths
     * @return iterable<string, string>
     */
    public function entriesBelow(BackupSet $set, array $paths): iterable
    {
        foreach (EntryPath::outermost($paths) as $path) {
            $packed = $this->at($set, $path);
            if ($packed !== null) {
                yield $path => $packed;
            }
            if ($path === '' || ($packed !== null && $packed[0] === 'd')) {
                yield from $path === '' ? $this->wholeTree($set) : $this->below($set, $path);
            }
        }
    }

    /**
     * All versions of one path, oldest first.
     *
     * @return list<FoundVersion>
     */
    public function versionsOf(Workload $workload, string $path): array
    {
        return array_map(
            fn (stdClass $row): FoundVersion => new FoundVersion(
                $path,
                (int) $row->first,
                (int) $row->until,
                Version::unpack(self::packed($row)),
                (int) $row->id,
                (int) $row->history_id,
            ),
            DB::select(
                'SELECT id, history_id, first, until, kind, size, mtime, digest, attributes FROM versions WHERE path_id = ? ORDER BY first',
                [PathKeys::path($workload->id, $path)],
            ),
        );
    }

    /**
     * Where else a content was from a moment on: what was renamed, moved or copied.
     *
     * @return list<FoundVersion> the first few, oldest first
     */
    public function sameContent(Workload $workload, string $digest, string $notAt, int $from, int $limit = 5): array
    {
        $rows = DB::select(
            'SELECT v.id, v.history_id, v.parent_id, p.name, v.first, v.until, v.kind, v.size, v.mtime, v.digest, v.attributes
                FROM versions v JOIN paths p ON p.id = v.path_id
             WHERE v.digest = ? AND v.until > ? AND p.workload_id = ? AND v.path_id <> ? ORDER BY v.first, p.name LIMIT ?',
            [$digest, $from, $workload->id, PathKeys::path($workload->id, $notAt), $limit],
        );
        $folders = $this->folderPaths(array_map(fn (stdClass $row): int => (int) $row->parent_id, $rows));

        return array_map(
            fn (stdClass $row): FoundVersion => new FoundVersion(
                EntryPath::join($folders[(int) $row->parent_id], $row->name),
                (int) $row->first,
                (int) $row->until,
                Version::unpack(self::packed($row)),
                (int) $row->id,
                (int) $row->history_id,
            ),
            $rows,
        );
    }

    /**
     * @param  list<int>  $keys
     * @return array<int, string> key => path
     */
    public function folderPaths(array $keys): array
    {
        $known = [0 => ''];
        $rows = [];
        for ($ask = array_unique($keys); $ask !== [];) {
            $next = [];
            foreach (array_chunk($ask, 1000) as $chunk) {
                foreach (DB::select('SELECT id, parent_id, name FROM paths WHERE id IN ('.implode(',', $chunk).')') as $row) {
                    $rows[(int) $row->id] = [(int) $row->parent_id, $row->name];
                    if (! isset($rows[(int) $row->parent_id]) && (int) $row->parent_id !== 0) {
                        $next[] = (int) $row->parent_id;
                    }
                }
            }
            $ask = array_unique(array_diff($next, array_keys($rows)));
        }
        foreach ($keys as $key) {
            $parts = [];
            for ($at = $key; $at !== 0 && isset($rows[$at]); $at = $rows[$at][0]) {
                array_unshift($parts, $rows[$at][1]);
            }
            $known[$key] = ltrim(implode('/', $parts), '/');
        }

        return $known;
    }

    /** @return iterable<string, string> */
    private function wholeTree(BackupSet $set): iterable
    {
        $folders = [PathKeys::path($set->workload_id, '') => ''];
        $rows = [];
        foreach (
            DB::select(
                'SELECT v.path_id, v.parent_id, p.name, v.kind, v.size, v.mtime, v.digest, v.attributes FROM versions v
                    JOIN paths p ON p.id = v.path_id
             WHERE v.history_id = ? AND v.until > ? AND v.first <= ? AND v.kind = \'d\' AND v.parent_id <> 0',
                [$set->history_id, $set->instant, $set->instant],
            ) as $row
        ) {
            $rows[(int) $row->parent_id][] = $row;
        }
        // A folder before what is in it.
        $queue = array_keys($folders);
        while ($queue !== []) {
            $parent = array_pop($queue);
            foreach ($rows[$parent] ?? [] as $row) {
                $folders[(int) $row->path_id] = EntryPath::join($folders[$parent], $row->name);
                $queue[] = (int) $row->path_id;
                yield $folders[(int) $row->path_id] => self::packed($row);
            }
        }
        unset($rows);
        yield from $this->streamed(
            'SELECT v.parent_id, p.name, v.kind, v.size, v.mtime, v.digest, v.attributes FROM versions v JOIN paths p ON p.id = v.path_id
             WHERE v.history_id = ? AND v.until > ? AND v.first <= ? AND v.kind <> \'d\'',
            [$set->history_id, $set->instant, $set->instant],
            $folders,
        );
    }

    /** @return iterable<string, string> */
    private function below(BackupSet $set, string $top): iterable
    {
        $folders = [PathKeys::path($set->workload_id, $top) => $top];
        while ($folders !== []) {
            $next = [];
            foreach (array_chunk($folders, 500, true) as $chunk) {
                $rows = DB::select(
                    'SELECT v.path_id, v.parent_id, p.name, v.kind, v.size, v.mtime, v.digest, v.attributes FROM versions v
                        JOIN paths p ON p.id = v.path_id
                     WHERE v.parent_id IN ('.
                        implode(',', array_keys($chunk)).
                        ') AND v.until > ? AND v.first <= ? AND v.history_id = ?',
                    [$set->instant, $set->instant, $set->history_id],
                );
                foreach ($rows as $row) {
                    $path = EntryPath::join($chunk[(int) $row->parent_id], $row->name);
                    if ($row->kind === 'd') {
                        $next[(int) $row->path_id] = $path;
                    }
                    yield $path => self::packed($row);
                }
            }
            $folders = $next;
        }
    }

    /**
     * Rows as the server sends them, so that a million of them take no memory.
     *
     * @param  list<int>  $bindings
     * @param  array<int, string>  $folders
     * @return iterable<string, string>
     */
    private function streamed(string $sql, array $bindings, array $folders): iterable
    {
        $pdo = DB::connection()->getPdo();
        $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, false);
        try {
            $statement = $pdo->prepare($sql);
            $statement->execute($bindings);
            while (($row = $statement->fetch(PDO::FETCH_NUM)) !== false) {
                if (isset($folders[(int) $row[0]])) {
                    yield EntryPath::join($folders[(int) $row[0]], $row[1]) => Version::join(
                        $row[2],
                        (int) $row[3],
                        (int) $row[4],
                        $row[5],
                        $row[6],
                    );
                }
            }
            $statement->closeCursor();
        } finally {
            $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, true);
        }
    }

    /**
     * @param  list<int>  $keys
     * @return array<int, array{int, int}> folder key => files and bytes below it
     */
    public function totals(BackupSet $set, array $keys): array
    {
        if ($keys === []) {
            return [];
        }
        $checkpoint =
            (int) (BackupSet::query()
                ->where('history_id', $set->history_id)
                ->where('checkpoint', true)
                ->where('instant', '<=', $set->instant)
                ->max('instant') ?? PHP_INT_MIN);
        $totals = [];
        foreach (array_chunk($keys, 1000) as $chunk) {
            foreach (
                DB::select(
                    'SELECT path_id, SUM(files) files, SUM(bytes) bytes FROM folder_totals
                 WHERE path_id IN ('.
                        implode(',', $chunk).
                        ') AND history_id = ? AND ((kind = 1 AND instant = ?) OR (kind = 0 AND instant > ? AND instant <= ?)) GROUP BY '.
                        'path_id',
                    [$set->history_id, $checkpoint, $checkpoint, $set->instant],
                ) as $row
            ) {
                $totals[(int) $row->path_id] = [(int) $row->files, (int) $row->bytes];
            }
        }

        return $totals;
    }

    private static function packed(stdClass $row): string
    {
        return Version::join($row->kind, (int) $row->size, (int) $row->mtime, $row->digest, $row->attributes);
    }
}
