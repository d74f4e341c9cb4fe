<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Instance;
use App\Models\BackupSet;
use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\UnableToWrite;

/**
 * Brings the tree of a set into the catalog. Only the differences to the set before it are written: what ended, what
 * began, and what each folder gained and lost.
 */
final class CatalogWriter
{
    /** The `until` of what is still so at the newest set. */
    public const OPEN = PHP_INT_MAX;

    /** Loaded at once: many small statements take three times as long. */
    private const ROWS = 50_000;

    private const KEYS = 1000;

    /** Folder totals are written whole each so many sets, so that adding up stays short. */
    private const CHECKPOINT_EVERY = 32;

    /** As LOAD DATA reads fields. */
    private const ESCAPES = ['\\' => '\\\\', "\t" => '\t', "\n" => '\n', "\0" => '\0'];

    private readonly Connection $db;

    /** @var list<string> */
    private array $versionRows = [];

    /** @var array<int, array{int, string, int}> path key => parent, name, name key */
    private array $newPaths = [];

    /** @var array<int, string> */
    private array $newNames = [];

    /** @var array<int, true> names that are in the list for certain */
    private array $knownNames = [];

    /** @var list<int> */
    private array $ended = [];

    /** @var array<array-key, array{int, int}> folder => files and bytes gained */
    private array $gained = [];

    public function __construct()
    {
        $this->db = DB::connection();
    }

    /** @param  Tree|null  $before the tree of the newest set before it in its history; null if it is the first */
    public function add(BackupSet $set, Tree $tree, ?Tree $before): void
    {
        $this->versionRows = $this->newPaths = $this->newNames = $this->ended = $this->gained = [];
        $this->db->transaction(function () use ($set, $tree, $before): void {
            $this->compare($set, $tree, $before ?? new Tree);
            $this->flush($set);
            $this->writeTotals($set, $tree);
        });
    }

    private function compare(BackupSet $set, Tree $tree, Tree $before): void
    {
        $workload = $set->workload_id;
        if ($tree->top !== $before->top) {
            if ($before->top !== null) {
                $this->end($set, PathKeys::path($workload, ''));
            }
            if ($tree->top !== null) {
                $this->begin($set, '', 0, '', $tree->top, $before->top === null);
            }
        }
        foreach ($tree->folderPaths() as $folder) {
            $now = $tree->children($folder) ?? [];
            $then = $before->children($folder) ?? [];
            $parent = PathKeys::path($workload, $folder);
            $files = $bytes = 0;
            foreach ($now as $name => $packed) {
                $old = $then[$name] ?? null;
                if ($old === $packed) {
                    continue;
                }
                if ($old !== null) {
                    $this->end($set, PathKeys::path($workload, EntryPath::join($folder, (string) $name)));
                    $files -= self::counts($old);
                    $bytes -= Version::bytesOf($old);
                }
                $this->begin($set, EntryPath::join($folder, (string) $name), $parent, (string) $name, $packed, $old === null);
                $files += self::counts($packed);
                $bytes += Version::bytesOf($packed);
            }
            foreach ($then as $name => $packed) {
                if (! isset($now[$name])) {
                    $this->end($set, PathKeys::path($workload, EntryPath::join($folder, (string) $name)));
                    $files -= self::counts($packed);
                    $bytes -= Version::bytesOf($packed);
                }
            }
            $this->gain($folder, $files, $bytes);
        }
        foreach ($before->folderPaths() as $folder) {
            if ($tree->children($folder) !== null) {
                continue;
            }
            $files = $bytes = 0;
            foreach ($before->children($folder) ?? [] as $name => $packed) {
                $this->end($set, PathKeys::path($workload, EntryPath::join($folder, (string) $name)));
                $files -= self::counts($packed);
                $bytes -= Version::bytesOf($packed);
            }
            $this->gain($folder, $files, $bytes);
        }
    }

    /**
     * Writes versions that end at the next set, for a set that comes between.
     *
     * @param  array<array-key, string>  $own  path => packed version
     */
    public function addBetween(BackupSet $set, array $own, int $until): void
    {
        foreach ($own as $path => $packed) {
            [$folder, $name] = (string) $path === '' ? [null, ''] : EntryPath::split((string) $path);
            $this->begin(
                $set,
                (string) $path,
                $folder === null ? 0 : PathKeys::path($set->workload_id, $folder),
                $name,
                $packed,
                true,
                $until,
            );
        }
        $this->flush($set);
    }

    /** The folder totals of a set that comes between two, and of the one after it. */
    public function totalsBetween(BackupSet $set, Tree $tree, Tree $before, BackupSet $next, Tree $after): void
    {
        $this->writeRows($set, 0, self::withAncestors(self::differences($tree, $before)));
        $this->rewriteDifferences($next, $after, $tree);
        [$files, $bytes] = self::withAncestors(self::own($tree))[''] ?? [0, 0];
        $set->update(['tree_files' => max(0, $files), 'tree_bytes' => max(0, $bytes), 'checkpoint' => false]);
    }

    /** The folder totals when a set was taken out from before another. */
    public function totalsWithout(BackupSet $set, Tree $before, ?BackupSet $next, Tree $after): void
    {
        $this->db->delete('DELETE FROM folder_totals WHERE history_id = ? AND instant = ?', [$set->history_id, $set->instant]);
        if ($next !== null) {
            $this->rewriteDifferences($next, $after, $before);
        }
    }

    private function rewriteDifferences(BackupSet $set, Tree $now, Tree $then): void
    {
        $this->db->delete('DELETE FROM folder_totals WHERE history_id = ? AND instant = ? AND kind = 0', [$set->history_id, $set->instant]);
        $this->writeRows($set, 0, self::withAncestors(self::differences($now, $then)));
    }

    /** @return array<array-key, array{int, int}> folder => files and bytes that it has more, directly in it */
    private static function differences(Tree $now, Tree $then): array
    {
        $gained = self::own($now);
        foreach (self::own($then) as $folder => [$files, $bytes]) {
            $gained[$folder] ??= [0, 0];
            $gained[$folder][0] -= $files;
            $gained[$folder][1] -= $bytes;
        }

        return array_filter($gained, fn (array $gain): bool => $gain !== [0, 0]);
    }

    private function begin(
        BackupSet $set,
        string $path,
        int $parent,
        string $name,
        string $packed,
        bool $isNew,
        int $until = self::OPEN,
    ): void {
        $key = PathKeys::path($set->workload_id, $path);
        ['kind' => $kind, 'size' => $size, 'mtime' => $mtime, 'digest' => $digest, 'attributes' => $attributes] = Version::columns($packed);
        $this->versionRows[] =
            "{$set->history_id}\t$parent\t$key\t{$set->instant}\t$until\t$kind\t$size\t$mtime\t".
            ($digest === null ? '\N' : strtr($digest, self::ESCAPES)).
            "\t".
            strtr($attributes, self::ESCAPES).
            "\n";
        if ($isNew) {
            $nameKey = PathKeys::name($name);
            $this->newPaths[$key] = [$parent, $name, $nameKey];
            if (! isset($this->knownNames[$nameKey])) {
                $this->knownNames[$nameKey] = true;
                $this->newNames[$nameKey] = $name;
            }
        }
        if (count($this->versionRows) >= self::ROWS) {
            $this->flush($set);
        }
    }

    private function end(BackupSet $set, int $key): void
    {
        $this->ended[] = $key;
        // What ends must be written before what begins, or the new version would end at once.
        if (count($this->ended) >= self::ROWS) {
            $this->flush($set);
        }
    }

    private function flush(BackupSet $set): void
    {
        foreach (array_chunk($this->ended, self::KEYS) as $keys) {
            $this->db->update(
                'UPDATE versions SET until = ? WHERE history_id = ? AND until = ? AND first < ? AND path_id IN ('.
                    implode(',', $keys).
                    ')',
                [$set->instant, $set->history_id, self::OPEN, $set->instant],
            );
        }
        $this->ended = [];
        if ($this->newNames !== []) {
            CatalogNames::of($set->workload_id)->add($this->newNames);
            $this->newNames = [];
        }
        if ($this->newPaths !== []) {
            $this->writePaths($set->workload_id);
        }
        $this->load(
            'INTO TABLE versions CHARACTER SET binary (history_id, parent_id, path_id, first, until, kind, size, mtime, digest, '.
                'attributes)',
            $this->versionRows,
        );
        $this->versionRows = [];
    }

    /**
     * @param  list<string>  $rows  fields divided by tabs, each row ended by a newline
     * @return int rows that were new
     */
    private function load(string $into, array $rows): int
    {
        if ($rows === []) {
            return 0;
        }
        $file = Instance::folder('tmp').'/rows-'.getmypid();
        if (@file_put_contents($file, $rows) === false) {
            throw UnableToWrite::full($file);
        }
        try {
            return (int) $this->db->getPdo()->exec('LOAD DATA LOCAL INFILE '.$this->db->getPdo()->quote($file)." $into");
        } finally {
            @unlink($file);
        }
    }

    private function writePaths(int $workload): void
    {
        $rows = [];
        foreach ($this->newPaths as $key => [$parent, $name, $nameKey]) {
            $rows[] = "$key\t$workload\t$parent\t".strtr($name, self::ESCAPES)."\t$nameKey\n";
        }
        $written = $this->load('IGNORE INTO TABLE paths CHARACTER SET binary (id, workload_id, parent_id, name, name_id)', $rows);
        if ($written < count($rows)) {
            // Some were there from earlier sets, as they should be: unless two paths share a key.
            foreach (array_chunk(array_keys($this->newPaths), self::KEYS) as $keys) {
                foreach (
                    $this->db->select('SELECT id, workload_id, parent_id, name FROM paths WHERE id IN ('.implode(',', $keys).')') as $row
                ) {
                    [$parent, $name] = $this->newPaths[(int) $row->id];
                    if ((int) $row->workload_id !== $workload || (int) $row->parent_id !== $parent || $row->name !== $name) {
                        throw new CatalogKeyTaken("Two paths of the catalog share the key {$row->id}; the set cannot be cataloged.");
                    }
                }
            }
        }
        $this->newPaths = [];
    }

    private function gain(string $folder, int $files, int $bytes): void
    {
        if ($files === 0 && $bytes === 0) {
            return;
        }
        $this->gained[$folder] ??= [0, 0];
        $this->gained[$folder][0] += $files;
        $this->gained[$folder][1] += $bytes;
    }

    private function writeTotals(BackupSet $set, Tree $tree): void
    {
        $gained = self::withAncestors($this->gained);
        $this->writeRows($set, 0, $gained);
        $earlier = BackupSet::query()->where('history_id', $set->history_id)->where('instant', '<', $set->instant);
        $ordinal = $earlier->count();
        if ($ordinal > 0 && $ordinal % self::CHECKPOINT_EVERY === 0) {
            $this->writeRows($set, 1, self::withAncestors(self::own($tree)));
            $set->checkpoint = true;
        }
        $before = $earlier->orderByDesc('instant')->first(['tree_files', 'tree_bytes']);
        $set->tree_files = max(0, ($before->tree_files ?? 0) + ($gained[''][0] ?? 0));
        $set->tree_bytes = max(0, ($before->tree_bytes ?? 0) + ($gained[''][1] ?? 0));
        $set->save();
    }

    /** @param  array<array-key, array{int, int}>  $totals */
    private function writeRows(BackupSet $set, int $kind, array $totals): void
    {
        $rows = [];
        foreach ($totals as $folder => [$files, $bytes]) {
            $rows[] =
                '('.PathKeys::path($set->workload_id, (string) $folder).",{$set->history_id},{$set->instant},$kind,$files,$bytes)";
        }
        foreach (array_chunk($rows, self::KEYS) as $chunk) {
            $this->db->unprepared(
                'INSERT INTO folder_totals (path_id, history_id, instant, kind, files, bytes) VALUES '.implode(',', $chunk),
            );
        }
    }

    /** @return array<array-key, array{int, int}> folder => files and bytes directly in it */
    private static function own(Tree $tree): array
    {
        $own = [];
        foreach ($tree->folderPaths() as $folder) {
            $files = $bytes = 0;
            foreach ($tree->children($folder) ?? [] as $packed) {
                $files += self::counts($packed);
                $bytes += Version::bytesOf($packed);
            }
            $own[$folder] = [$files, $bytes];
        }

        return $own;
    }

    /**
     * Adds what each folder has to all folders above it.
     *
     * @param  array<array-key, array{int, int}>  $own
     * @return array<array-key, array{int, int}>
     */
    private static function withAncestors(array $own): array
    {
        $totals = $own;
        foreach ($own as $folder => [$files, $bytes]) {
            for ($above = (string) $folder; $above !== '';) {
                [$above] = EntryPath::split($above);
                $totals[$above] ??= [0, 0];
                $totals[$above][0] += $files;
                $totals[$above][1] += $bytes;
            }
        }

        return array_filter($totals, fn (array $total): bool => $total !== [0, 0]);
    }

    /** Folders and what was not stored are not counted. */
    private static function counts(string $packed): int
    {
        return in_array($packed[0], ['d', 'x', 'n'], true) ? 0 : 1;
    }
}
