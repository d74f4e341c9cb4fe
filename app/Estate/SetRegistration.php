<?php

declare(strict_types=1);

namespace App\Estate;

use App\Catalog\CatalogReader;
use App\Catalog\CatalogWriter;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Catalog\ArchiveScan;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Catalog\ResolvedTree;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\TreeResolver;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;

/** Takes archives into the catalog, one after the other in the order of their instants. */
final class SetRegistration
{
    /** @var array<int, Tree> set id => tree, of the sets in hand */
    private array $trees = [];

    private readonly CatalogReader $reader;

    private readonly CatalogWriter $writer;

    public function __construct(private readonly Workload $workload, private readonly Store $store)
    {
        $this->reader = new CatalogReader;
        $this->writer = new CatalogWriter;
    }

    /**
     * @param  string  $path  below the root of the store
     * @param  string|null  $base  the name of the set it was made against, where that is recorded
     * @param  callable(int): void|null  $progress
     *
     * @throws \Kaiseki\Core\Archive\UnreadableArchive if nothing of it can be read
     * @throws CannotRegister
     */
    public function add(string $path, string $name, Level $level, Instant $capturedAt, ?string $base, string $history = '1', ?Instant $capturedFrom = null, ?callable $progress = null): BackupSet
    {
        $this->refuseIfKnown($name);
        $history = $this->history($history);
        $instant = $capturedAt->microseconds;
        $newest = BackupSet::query()->where('history_id', $history->id)->max('instant');
        if ($newest !== null && $newest > $instant) {
            throw CannotRegister::because('it is older than sets that are cataloged already; adopt the whole folder again under a new name to take it in');
        }
        if ($newest !== null && (int) $newest === $instant) {
            $instant++; // two sets of one second: in the order of their names
        }
        $file = $this->store->root.'/'.$path;
        $archive = ArchiveFile::at($file);
        $scan = ArchiveScan::read($archive, $progress);

        return DB::transaction(function () use ($path, $name, $level, $capturedAt, $base, $history, $capturedFrom, $instant, $file, $scan): BackupSet {
            $set = new BackupSet([
                'workload_id' => $this->workload->id, 'history_id' => $history->id, 'name' => $name, 'level' => $level->name, 'instant' => $instant,
                'captured_at' => $capturedAt->in(), 'captured_from' => $capturedFrom?->in(), 'bytes' => (int) filesize($file),
                'entries' => $scan->count, 'seekable' => $scan->seekable, 'base_recorded' => $base !== null,
            ]);
            $baseSet = $this->findBase($set, $level, $base);
            $set->base_id = $baseSet?->id;
            $set->base_name = $base;
            $resolved = $this->resolve($set, $level, $scan, $baseSet);
            $set->cataloged = $scan->whole && $set->base_unknown_because === null && $resolved->unresolved === [] && $resolved->lostFolders === [] && ($baseSet === null || $baseSet->cataloged === 'whole') ? 'whole' : 'part';
            $set->remarks = $this->remarks($scan, $resolved, $level);
            $set->save();
            PlaceIndex::write(SetFiles::placeIndex($set), $scan->places);
            $whole = $scan->whole;
            $problems = $scan->problems;
            $scan->members = $scan->folders = $scan->places = []; // the tree has what matters of it
            Copy::query()->create([
                'set_id' => $set->id, 'store_id' => $this->store->id, 'path' => $path, 'bytes' => $set->bytes,
                // What of it could be read is sound, and its index names nothing else.
                'state' => 'ok', 'state_because' => $whole ? null : mb_substr('The archive '.implode('; ', $problems).'.', 0, 500),
            ]);
            $before = BackupSet::query()->where('history_id', $history->id)->where('instant', '<', $instant)->orderByDesc('instant')->first();
            $this->writer->add($set, $resolved->tree, $before === null ? null : $this->tree($before));
            $this->trees = [$set->id => $resolved->tree]; // the next one most likely rests on it

            return $set;
        });
    }

    /** The tree of a set, from memory if it was in use just now. */
    public function tree(BackupSet $set): Tree
    {
        return $this->trees[$set->id] ??= $this->reader->tree($set);
    }

    private function refuseIfKnown(string $name): void
    {
        if (strlen($name) > 200 || ! mb_check_encoding($name, 'UTF-8')) {
            throw CannotRegister::because('the name of a set must be UTF-8 and no longer than 200 bytes');
        }
        if (BackupSet::query()->where('workload_id', $this->workload->id)->where('name', $name)->exists()) {
            throw CannotRegister::because("a set named $name is registered already");
        }
    }

    private function history(string $name): History
    {
        return History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => $name]);
    }

    private function findBase(BackupSet $set, Level $level, ?string $recorded): ?BackupSet
    {
        if ($level->isFull()) {
            return null;
        }
        $earlier = BackupSet::query()->where('history_id', $set->history_id)->where('instant', '<', $set->instant)->orderByDesc('instant');
        if ($recorded !== null) {
            return $earlier->where('name', $recorded)->first();
        }

        return self::assumedBase($earlier, $level);
    }

    /**
     * The set that one of this level is reckoned against by the rule of the level.
     *
     * @template T of Builder<BackupSet>|HasMany<BackupSet, Workload>
     *
     * @param  T  $earlier  newest first
     */
    public static function assumedBase(Builder|HasMany $earlier, Level $level): ?BackupSet
    {
        $own = $level->dumpLevel();
        match (true) {
            $own !== null => $earlier->whereIn('level', ['full', ...array_map(strval(...), range(0, $own - 1))]),
            $level->name === 'diff' => $earlier->whereIn('level', ['full', '0']),
            default => $earlier->where('level', '<>', 'log'),
        };

        return $earlier->first();
    }

    private function resolve(BackupSet $set, Level $level, ArchiveScan $scan, ?BackupSet $base): ResolvedTree
    {
        if ($level->isFull()) {
            return TreeResolver::resolve($scan, null, false);
        }
        if ($base === null) {
            $set->base_unknown_because = $set->base_name !== null ? "its base {$set->base_name} is not here" : 'no set that it could rest on is here';

            return TreeResolver::resolve($scan, null, true);
        }
        $resolved = TreeResolver::resolve($scan, $this->tree($base), true);
        if ($resolved->unresolved !== [] && ! $set->base_recorded && $base->cataloged === 'whole') {
            // An entry that is in no such base: this is not the set it was made against, and what fits may fit by chance.
            $set->base_id = null;
            $set->base_unknown_because = sprintf('it does not rest on %s: %d of the entries it names as unchanged are not there', $base->name, count($resolved->unresolved));

            return TreeResolver::resolve($scan, null, true);
        }

        return $resolved;
    }

    /** @return list<string> */
    private function remarks(ArchiveScan $scan, ResolvedTree $resolved, Level $level): array
    {
        $remarks = array_map(fn (string $problem): string => "The archive $problem.", array_slice($scan->problems, 0, 20));
        if ($resolved->unresolved !== []) {
            $remarks[] = count($resolved->unresolved).' entries are named as unchanged, but their content is not known.';
        }
        if ($resolved->lostFolders !== []) {
            $remarks[] = count($resolved->lostFolders).' folders are named, but neither they nor what is in them were stored: "'.Shown::name($resolved->lostFolders[0]).'".';
        }
        if ($resolved->notStored !== []) {
            $remarks[] = count($resolved->notStored).' entries were not stored (sockets, or gone while the set was made).';
        }
        if (! $level->isFull() && ! $resolved->hasFolderRecords) {
            $remarks[] = 'It has no folder records: what was deleted before it is not known.';
        }

        return $remarks;
    }
}
