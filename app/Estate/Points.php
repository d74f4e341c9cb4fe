<?php

declare(strict_types=1);

namespace App\Estate;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Tape\TapeSegment;

/** The points of one workload as they are now: its sets, the state of their copies, and what each can give back. */
final class Points
{
    /** @var array<int, SetOutline> by id, oldest first */
    public readonly array $sets;

    public readonly ChainGraph $graph;

    public readonly LostContent $lost;

    public readonly OpenStores $stores;

    /** @var array<array-key, SetOutline> by name */
    private array $byName = [];

    /** @var array<int, BackupSet> */
    private array $models = [];

    private ?RatesNow $rates = null;

    /** @var array<string, Level> */
    private array $levels = [];

    public function __construct(public readonly Workload $workload, ?OpenStores $stores = null)
    {
        clearstatcache(true); // a worker lives long, and PHP remembers what files were
        $this->stores = $stores ?? new OpenStores;
        $this->sets = $this->outlines($this->copies());
        foreach ($this->sets as $set) {
            $this->byName[$set->name] = $set;
        }
        $this->graph = new ChainGraph(array_map(fn (SetOutline $set): ChainSet => $set->set, $this->sets));
        $this->lost = new LostContent($this);
    }

    public function set(string $name): ?SetOutline
    {
        return $this->byName[$name] ?? null;
    }

    /** The set with all that is recorded of it. */
    public function model(SetOutline $set): BackupSet
    {
        return $this->models[$set->id] ??= BackupSet::query()->with('copies.store')->findOrFail($set->id)->setRelation('workload', $this->workload);
    }

    /** The model of the point that the finder chose; null for none. */
    public function modelOf(?ChainSet $set): ?BackupSet
    {
        $outline = $set === null ? null : $this->set($set->id);

        return $outline === null ? null : $this->model($outline);
    }

    public function newest(): ?SetOutline
    {
        return $this->sets === [] ? null : $this->sets[array_key_last($this->sets)];
    }

    /** The newest set at or before a moment, whatever its state. */
    public function lastBefore(Instant $moment): ?SetOutline
    {
        $last = null;
        foreach ($this->sets as $set) {
            if ($set->instant > $moment->microseconds) {
                break;
            }
            $last = $set;
        }

        return $last;
    }

    /** whole, part or no. */
    public function usable(SetOutline $set): string
    {
        $lost = $this->lost->counts()[$set->id] ?? 0;

        return $lost === 0 ? 'whole' : ($lost < $set->treeFiles ? 'part' : 'no');
    }

    /** Why the point is not whole; null if it is. */
    public function because(SetOutline $set): ?string
    {
        $lost = $this->lost->counts()[$set->id] ?? 0;
        if ($lost === 0) {
            return null;
        }
        $words = sprintf('%s of its %s files %s in no archive that can be read', number_format($lost), number_format($set->treeFiles), $lost === 1 ? 'is' : 'are');

        return $set->baseUnknownBecause === null ? $words : "$words: {$set->baseUnknownBecause}";
    }

    /** The set whose loss this point survives, since what it needs of it lies elsewhere; null for none. */
    public function bridged(SetOutline $set): ?SetOutline
    {
        if ($this->lost->isNothingUnreadable() || ($this->lost->counts()[$set->id] ?? 0) > 0 || $this->graph->blockageOf($set->name) !== null) {
            return null;
        }
        $lowest = $this->lost->chains->lowestUnreadable($set->name);

        return $lowest === null ? null : $this->set($lowest->id);
    }

    /** @param  list<string>|null  $paths  the selection that the points are judged by; null for the whole tree */
    public function find(Instant $wanted, Demands $demands, ?array $paths = null): FoundPoint
    {
        return $this->finder($paths)->find($wanted, $demands);
    }

    /** @param  list<string>|null  $paths */
    public function finder(?array $paths = null): PointFinder
    {
        $missing = $paths === null ? $this->lost->counts() : $this->lost->countsWithin($paths);

        return new PointFinder($this->graph, function (ChainSet $set) use ($missing, $paths): ?string {
            $outline = $this->byName[$set->id];
            $count = $missing[$outline->id] ?? 0;
            if ($count === 0) {
                return null;
            }

            return $paths === null ? $this->because($outline) : sprintf('%s selected %s in no archive that can be read', number_format($count), $count === 1 ? 'file is' : 'files are');
        }, $this->sites());
    }

    public function route(?string $site): Route
    {
        return $this->rates()->route($this->stores->all()->all(), $site ?? $this->workload->site);
    }

    public function rates(): RatesNow
    {
        return $this->rates ??= RatesNow::read();
    }

    /** @return array<string, string> store => site */
    public function sites(): array
    {
        return $this->stores->all()->pluck('site', 'name')->all();
    }

    /** @return array<int, list<CopyOutline>> set id => copies */
    private function copies(): array
    {
        $copies = [];
        $stores = $this->stores->all();
        $open = [];
        foreach (DB::select('SELECT c.id, c.set_id, c.store_id, c.path, c.bytes, c.state, c.state_because, c.segments, c.gzipped, s.level FROM copies c JOIN sets s ON s.id = c.set_id WHERE s.workload_id = ? ORDER BY c.id', [$this->workload->id]) as $row) {
            $store = $stores[$row->store_id];
            $segments = $row->segments === null ? [] : array_map(TapeSegment::fromArray(...), (array) json_decode($row->segments, true));
            $stored = new StoredCopy($row->path, (int) $row->bytes, $segments, $row->gzipped === null ? null : (bool) $row->gzipped);
            $state = CopyState::from($row->state);
            $because = $row->state_because;
            $offline = [];
            if ($state->isReadable() && $row->level === 'snapshot' && $this->sourceIsGone()) {
                [$state, $because] = [CopyState::Missing, 'It was kept only at the source, which is gone.'];
            } elseif ($state === CopyState::Offline) {
                $offline = $stored->media();
            } elseif ($state->isReadable()) {
                $look = ($open[$row->store_id] ??= $this->stores->of($store))->look($stored);
                if ($look->state !== CopyState::Ok) {
                    [$state, $because, $offline] = [$look->state, $look->because, $look->offline];
                }
            }
            $copies[(int) $row->set_id][] = new CopyOutline((int) $row->id, $store, $stored, $state, $because, $offline);
        }

        return $copies;
    }

    private function sourceIsGone(): bool
    {
        return $this->workload->source !== null && ! is_dir($this->workload->source);
    }

    /**
     * @param  array<int, list<CopyOutline>>  $copies
     * @return array<int, SetOutline>
     */
    private function outlines(array $copies): array
    {
        // Files from plain archives are of unknown consistency, and that is enough for files.
        $anyConsistency = $this->workload->kind === 'files';
        $sets = [];
        foreach (DB::select(
            'SELECT id, name, level, instant, history_id, base_id, base_recorded, base_name, base_unknown_because, consistency, in_doubt, cataloged, bytes, tree_files FROM sets WHERE workload_id = ? ORDER BY instant', [$this->workload->id],
        ) as $row) {
            $id = (int) $row->id;
            $level = $this->levels[$row->level] ??= Level::of($row->level);
            $own = $copies[$id] ?? [];
            $sets[$id] = new SetOutline(
                $id, $row->name, $level, (int) $row->instant, (int) $row->history_id, $row->base_id === null ? null : (int) $row->base_id, $row->base_unknown_because, (int) $row->bytes, (int) $row->tree_files, $row->cataloged, $own,
                new ChainSet(
                    $row->name, $level, Instant::ofMicroseconds((int) $row->instant), (int) $row->bytes, array_map(self::chainCopy(...), $own),
                    $row->base_recorded ? $row->base_name : null, (string) $row->history_id, $anyConsistency || in_array($row->consistency, ['application', 'crash'], true), (bool) $row->in_doubt,
                ),
            );
        }

        return $sets;
    }

    private static function chainCopy(CopyOutline $copy): SetCopy
    {
        return new SetCopy($copy->store->name, $copy->state, $copy->stored->media(), $copy->stored->segments[0]->position ?? 0, $copy->offline);
    }
}
