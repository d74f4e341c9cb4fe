<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\BackupSet;
use Closure;
use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Tree;

/**
 * Puts the tree of a set between those that are cataloged already, or takes it out from between them: spans are split,
 * moved and joined, and nothing is renumbered. The neighbours are the sets next to it in its history; a set at the end has
 * none after it.
 */
final class CatalogSplicer
{
    private const ROWS = 1000;

    private readonly Connection $db;

    /** @var list<int> */
    private array $keys = [];

    private int $history = 0;

    public function __construct(private readonly CatalogWriter $writer = new CatalogWriter)
    {
        $this->db = DB::connection();
    }

    public function insert(BackupSet $set, Tree $tree, ?Tree $before, BackupSet $next, Tree $after): void
    {
        $this->db->transaction(function () use ($set, $tree, $before, $next, $after): void {
            $before ??= new Tree;
            [$at, $then] = [$set->instant, $next->instant];
            $ends = $begins = $splits = $own = [];
            foreach (self::paths($tree, $before, $after) as $path) {
                [$b, $s, $n] = [$before->at($path), $tree->at($path), $after->at($path)];
                if ($b === $s) {
                    continue;
                }
                $key = PathKeys::path($set->workload_id, $path);
                if ($b !== null && $b === $n) {
                    $splits[] = $key;
                } elseif ($b !== null) {
                    $ends[] = $key;
                }
                if ($s !== null && $s === $n) {
                    $begins[] = $key;
                } elseif ($s !== null) {
                    $own[$path] = $s;
                }
            }
            $this->history = $set->history_id;
            $this->each($splits, function () use ($at, $then): void {
                $this->run(
                    'INSERT INTO versions (history_id, parent_id, path_id, first, until, kind, size, mtime, digest, attributes) SELECT '.
                        'history_id, parent_id, path_id, ?, until, kind, size, mtime, digest, attributes FROM versions',
                    'first < ? AND until > ?',
                    [$then, $at, $then],
                );
                $this->run('UPDATE versions SET until = ?', 'first < ? AND until > ?', [$at, $at, $then]);
            });
            $this->each($ends, fn () => $this->run('UPDATE versions SET until = ?', 'first < ? AND until = ?', [$at, $at, $then]));
            $this->each($begins, fn () => $this->run('UPDATE versions SET first = ?', 'first = ?', [$at, $then]));
            $this->writer->addBetween($set, $own, $then);
            $this->writer->totalsBetween($set, $tree, $before, $next, $after);
        });
    }

    /** Takes the set's tree out; its row in the table of sets is left to the caller. */
    public function remove(BackupSet $set, Tree $tree, ?Tree $before, ?BackupSet $next, ?Tree $after): void
    {
        $this->db->transaction(function () use ($set, $tree, $before, $next, $after): void {
            $before ??= new Tree;
            $after ??= new Tree;
            [$at, $then] = [$set->instant, $next->instant ?? CatalogWriter::OPEN];
            $extends = $moves = $joins = $gone = [];
            foreach (self::paths($tree, $before, $after) as $path) {
                [$p, $x, $q] = [$before->at($path), $tree->at($path), $after->at($path)];
                if ($p === $x) {
                    continue;
                }
                $key = PathKeys::path($set->workload_id, $path);
                if ($x !== null && $x === $q) {
                    $moves[] = $key;
                } elseif ($x !== null) {
                    $gone[] = $key;
                }
                if ($p !== null && $p === $q) {
                    $joins[] = $key;
                } elseif ($p !== null) {
                    $extends[] = $key;
                }
            }
            $this->history = $set->history_id;
            $this->each($gone, fn () => $this->run('DELETE FROM versions', 'first = ?', [$at]));
            $this->each($moves, fn () => $this->run('UPDATE versions SET first = ?', 'first = ?', [$then, $at]));
            $this->each($extends, fn () => $this->run('UPDATE versions SET until = ?', 'until = ?', [$then, $at]));
            $this->each($joins, function () use ($at, $then): void {
                $this->db->update(
                    'UPDATE versions v JOIN versions q ON q.path_id = v.path_id AND q.history_id = v.history_id AND q.first = ? SET '.
                        'v.until = q.until WHERE v.until = ? AND v.history_id = ? AND v.path_id IN ('.
                        implode(',', $this->keys).
                        ')',
                    [$then, $at, $this->history],
                );
                $this->run('DELETE FROM versions', 'first = ?', [$then]);
            });
            $this->writer->totalsWithout($set, $before, $next, $after);
        });
    }

    /** @param  list<int>  $keys */
    private function each(array $keys, Closure $do): void
    {
        foreach (array_chunk($keys, self::ROWS) as $this->keys) {
            $do();
        }
    }

    /** @param  list<int>  $bindings those of the statement, then those of the condition */
    private function run(string $statement, string $where, array $bindings): void
    {
        $this->db->affectingStatement(
            "$statement WHERE history_id = {$this->history} AND path_id IN (".implode(',', $this->keys).") AND $where",
            $bindings,
        );
    }

    /** @return iterable<string> every path of any of the trees at which they are not all the same, each once */
    private static function paths(Tree ...$trees): iterable
    {
        if (count(array_unique(array_map(fn (Tree $tree): string => $tree->top ?? '-', $trees))) > 1) {
            yield '';
        }
        $folders = [];
        foreach ($trees as $tree) {
            foreach ($tree->folderPaths() as $folder) {
                $folders[$folder] = true;
            }
        }
        foreach (array_keys($folders) as $folder) {
            $children = array_map(fn (Tree $tree): array => $tree->children((string) $folder) ?? [], $trees);
            if ($children[0] === $children[1] && $children[1] === $children[2]) {
                continue;
            }
            $names = [];
            foreach ($children as $of) {
                $names += $of;
            }
            foreach (array_keys($names) as $name) {
                yield EntryPath::join((string) $folder, (string) $name);
            }
        }
    }
}
