<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\LeftOut;
use App\Sets\SetFiles;
use App\Sets\SidecarFiles;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSplicer;
use App\Trees\Catalog\CatalogWriter;
use App\Trees\Doubt\DoubtBook;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\ArchiveScan;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Chain\LastSets;
use Kaiseki\Core\Chain\Level;

/** Takes archives into the catalog, in any order: one that comes late finds its place among those already there. */
final class SetRegistration
{
    /** With which a member of a gzip file begins (RFC 1952, section 2.3.1). */
    private const MEMBER = "\x1f\x8b\x08";

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
     * Reads an archive and takes it in.
     *
     * @param  callable(int): void|null  $progress
     *
     * @throws UnreadableArchive if nothing of it can be read
     * @throws CannotRegister
     */
    public function add(FoundSet $found, ?callable $progress = null, int $mostTimes = ArchiveScan::MOST_TIMES): BackupSet
    {
        self::refuseIfKnown($this->workload, $found->name);
        $file = $this->store->root.'/'.$found->path;
        $archive = ArchiveFile::at($file);
        $scan = ArchiveScan::read($archive, $progress, $mostTimes);
        $scan->leaveOut($found->excluded);
        $differs = $found->isFresh ? null : $this->manifestDiffers($file, $found->name, $scan);
        if ($differs !== null) {
            $found = $found->with($differs);
        }

        return $this->enter(
            $found,
            $scan,
            $archive->gzipped,
            PieceDigests::of(StreamBytes::ofFile($file)),
            SidecarFiles::digests($file, $found->name),
        );
    }

    /**
     * Takes an archive in by what the manifest beside it says, without reading it.
     *
     * @param  string  $digest  of the archive, hex, as the record of the set has it
     * @param  int  $bytes  likewise
     *
     * @throws InvalidArgumentException if the manifest is none
     * @throws CannotRegister
     */
    public function addByManifest(FoundSet $found, string $digest, int $bytes): BackupSet
    {
        self::refuseIfKnown($this->workload, $found->name);
        $file = $this->store->root.'/'.$found->path;

        $scan = ArchiveScan::ofManifest(self::lines(dirname($file)."/{$found->name}.manifest.jsonl"));
        $archive = @fopen($file, 'rb');
        if ($archive !== false) {
            $scan->mendPlaces(fn (int $offset): bool => fseek($archive, $offset) === 0 && fread($archive, 3) === self::MEMBER);
            fclose($archive);
        }

        return $this->enter(
            $found,
            $scan,
            true,
            null,
            SidecarFiles::digests($file, $found->name),
            $digest,
            $bytes,
        );
    }

    /** What a manifest beside an archive says otherwise than that; null if nothing, or there is none. The archive counts. */
    private function manifestDiffers(string $file, string $name, ArchiveScan $scan): ?string
    {
        $path = dirname($file)."/$name.manifest.jsonl";
        if (! is_file($path)) {
            return null;
        }
        try {
            $told = ArchiveScan::ofManifest(self::lines($path))->members;
        } catch (InvalidArgumentException $wrong) {
            return "The manifest beside it cannot be read ({$wrong->getMessage()}); the archive counts.";
        }
        $different = array_keys(array_diff_assoc($told, $scan->members) + array_diff_assoc($scan->members, $told));
        if ($different === []) {
            return null;
        }

        return sprintf(
            'The manifest beside it says otherwise of %s, such as "%s"; the archive counts.',
            Words::count(count($different), 'entry', 'entries'),
            Shown::name((string) $different[0]),
        );
    }

    /** @return iterable<string> */
    private static function lines(string $path): iterable
    {
        $file = @fopen($path, 'rb') ?: throw new InvalidArgumentException('There is no manifest.');
        while (($line = fgets($file)) !== false) {
            yield $line;
        }
        fclose($file);
    }

    /** @param  array<string, string>|null  $beside */
    private function enter(
        FoundSet $found,
        ArchiveScan $scan,
        bool $gzipped,
        ?PieceDigests $pieces,
        ?array $beside,
        ?string $digest = null,
        int $bytes = 0,
    ): BackupSet {
        return DB::transaction(function () use ($found, $scan, $gzipped, $pieces, $beside, $digest, $bytes): BackupSet {
            $history = History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => $found->history]);
            $set = new BackupSet([
                'workload_id' => $this->workload->id,
                'history_id' => $history->id,
                'name' => $found->name,
                'level' => $found->level->name,
                'instant' => BackupSet::freeInstant($history->id, $found->capturedAt->microseconds),
                'captured_at' => $found->capturedAt->in(),
                'captured_from' => $found->capturedFrom?->in(),
                'bytes' => $pieces->bytes ?? $bytes,
                'entries' => $scan->count,
                'seekable' => $scan->seekable,
                'base_recorded' => $found->base !== null,
                'base_name' => $found->base,
                'digest' => $pieces === null ? $digest : bin2hex($pieces->digest),
                'beside' => $beside,
                'consistency' => $found->consistency,
                'facts' => self::facts($found, $scan),
            ]);
            $baseSet = $this->findBase($set);
            $tree = SetResolution::of($set, $scan, $baseSet, $baseSet === null ? null : $this->tree($baseSet))->tree;
            $set->remarks = array_values(array_unique([...$found->remarks, ...$set->remarks ?? []]));
            $set->save();
            PlaceIndex::write(SetFiles::placeIndex($set->id), $scan->places);
            $pieces?->write(SetFiles::pieces($set->id));
            $set->update(['index_digest' => bin2hex((string) ContentDigest::ofFile(SetFiles::placeIndex($set->id)))]);
            Copy::query()->create([
                'set_id' => $set->id,
                'store_id' => $this->store->id,
                'path' => $found->path,
                'bytes' => $set->bytes,
                'gzipped' => $gzipped,
                'has_beside' => $beside !== null,
                // What of it could be read is sound, and its index names nothing else.
                'state' => 'ok',
                'state_because' => $scan->whole ? null : mb_substr('The archive '.implode('; ', $scan->problems).'.', 0, 500),
            ]);
            $stored = array_map(fn (string $place): string => substr($place, 0, 32), $scan->places);
            $scan->members = $scan->folders = $scan->places = []; // the tree has what matters of it
            $this->catalog($set, $tree, $scan->testFiles, $stored);

            return $set;
        });
    }

    /** The tree of a set, from memory if it was in use just now. */
    public function tree(BackupSet $set): Tree
    {
        return $this->trees[$set->id] ??= $this->reader->tree($set);
    }

    /**
     * The set that one of this level is reckoned against if it is made, or was made, at some instant. Sets of one instant do not
     * come before each other: see ChainGraph, which must say the same.
     *
     * @param  CarbonImmutable|null  $before  when it was captured; null for one that is about to be made
     */
    public static function assumedBase(int $history, Level $level, ?CarbonImmutable $before = null): ?BackupSet
    {
        $last = new LastSets;
        $earlier = BackupSet::query()
            ->where('history_id', $history)
            ->when($before !== null, fn (Builder $query): Builder => $query->where('captured_at', '<', $before?->format('Y-m-d H:i:s.u')))
            ->orderBy('captured_at')
            ->orderByRaw('BINARY name');
        foreach ($earlier->toBase()->get(['id', 'level']) as $row) {
            $last->add((string) $row->id, Level::of($row->level));
        }
        $id = $last->baseFor($level);

        return $id === null ? null : BackupSet::query()->find((int) $id);
    }

    /**
     * @param  list<array{string, string}>  $testFiles
     * @param  list<string>  $stored  digests of the contents in its archive
     */
    private function catalog(BackupSet $set, Tree $tree, array $testFiles, array $stored): void
    {
        $book = new DoubtBook;
        [$before, $next] = [$set->neighbour(false), $set->neighbour(true)];
        if ($next === null) {
            $treeBefore = $before === null ? null : $this->tree($before);
            $this->writer->add($set, $tree, $treeBefore);
            $book->take($set, $tree, $treeBefore, $testFiles, $stored);
            $this->trees = [$set->id => $tree]; // the next one most likely rests on it

            return;
        }
        (new CatalogSplicer)->insert($set, $tree, $before === null ? null : $this->tree($before), $next, $this->tree($next));
        $book->take($set, $tree, $before === null ? null : $this->tree($before), $testFiles, $stored);
        $this->trees = [$set->id => $tree];
        $this->reviewAfter($set);
        $book->take($next->refresh(), $this->reader->tree($next), $this->reader->tree($set->refresh()));
    }

    /** Sets after one that came late may rest on it, or on one that now rests on another. */
    private function reviewAfter(BackupSet $late): void
    {
        $changed = [$late->id => true];
        $ofHistory = BackupSet::query()->where('history_id', $late->history_id);
        $later = $ofHistory->where('instant', '>', $late->instant)->orderBy('instant')->get();
        foreach ($later as $set) {
            $base = $this->findBase($set);
            if ($base?->id === $set->tried_base_id && ($base === null || ! isset($changed[$base->id]))) {
                continue;
            }
            if ($this->resolveAgain($set, $base)) {
                $changed[$set->id] = true;
            }
        }
    }

    /** @return bool whether its tree is another now */
    private function resolveAgain(BackupSet $set, ?BackupSet $base): bool
    {
        $old = $this->reader->tree($set);
        $scan = $this->scanAgain($set);
        if ($scan === null) {
            $set->update([
                'base_id' => $base?->id,
                'tried_base_id' => $base?->id,
                'remarks' => [
                    ...$set->remarks ?? [],
                    'A set that came late changed what this one rests on, but its archive could not be read to see what that means.',
                ],
            ]);

            return false;
        }
        $tree = SetResolution::of($set, $scan, $base, $base === null ? null : $this->tree($base))->tree;
        $set->save();
        if (iterator_to_array($tree->entries()) == iterator_to_array($old->entries())) {
            return false;
        }
        [$before, $next] = [$set->neighbour(false), $set->neighbour(true)];
        $treeBefore = $before === null ? null : $this->tree($before);
        $treeAfter = $next === null ? null : $this->reader->tree($next);
        (new CatalogSplicer)->remove($set, $old, $treeBefore, $next, $treeAfter);
        unset($this->trees[$set->id]);
        if ($next === null || $treeAfter === null) {
            $this->writer->add($set, $tree, $treeBefore);
        } else {
            (new CatalogSplicer)->insert($set, $tree, $treeBefore, $next, $treeAfter);
        }
        $this->trees = [$set->id => $tree];

        return true;
    }

    private function scanAgain(BackupSet $set): ?ArchiveScan
    {
        $stores = new OpenStores;
        foreach ($set->copies()->with('store')->get() as $copy) {
            try {
                $scan = ArchiveScan::read($stores->of($copy->store)->open(StoredCopy::of($copy)));
                $scan->leaveOut(LeftOut::ofSet($set));

                return $scan;
            } catch (UnreadableArchive) {
                continue;
            }
        }

        return null;
    }

    /** @throws CannotRegister if a set cannot have a name, or another of its workload has it */
    public static function refuseIfKnown(Workload $workload, string $name): void
    {
        if (strlen($name) > 200 || ! mb_check_encoding($name, 'UTF-8')) {
            throw CannotRegister::because('the name of a set must be UTF-8 and no longer than 200 bytes');
        }
        if (BackupSet::query()->where('workload_id', $workload->id)->where('name', $name)->exists()) {
            throw CannotRegister::because("a set named $name is registered already");
        }
    }

    /** @return array<string, mixed>|null what is known of it that not every kind of set has */
    private static function facts(FoundSet $found, ArchiveScan $scan): ?array
    {
        $facts = ($found->knowsLists || $scan->hasLists ? [KnownLists::FACT => true] : []) +
            ($found->excluded->all === [] ? [] : [LeftOut::FACT => $found->excluded->toArray()]);

        return $facts === [] ? null : $facts;
    }

    private function findBase(BackupSet $set): ?BackupSet
    {
        $level = Level::of($set->level);
        if ($level->needsNoBase()) {
            return null;
        }
        if (! $set->base_recorded) {
            return self::assumedBase($set->history_id, $level, $set->captured_at);
        }

        return BackupSet::query()
            ->where('history_id', $set->history_id)
            ->where('instant', '<', $set->instant)
            ->where('name', $set->base_name)
            ->first();
    }
}
