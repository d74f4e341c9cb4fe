<?php

declare(strict_types=1);

namespace App\Sets;

use App\Kinds\Judge;
use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Workload;
use App\Stores\OpenStores;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\ReadableChains;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Consistency;
use Kaiseki\Core\Tape\TapeSegment;
use PDO;

/** The points of one workload as they are now: its sets, the state of their copies, and what each can give back. */
final class Points
{
    /** @var array<int, SetOutline> by id, oldest first */
    public readonly array $sets;

    public readonly ChainGraph $graph;

    public readonly ReadableChains $chains;

    public readonly Judge $judge;

    public readonly OpenStores $stores;

    /** @var array<array-key, SetOutline> by name */
    private array $byName = [];

    /** @var array<int, BackupSet> */
    private array $models = [];

    private ?RatesNow $rates = null;

    /** @var array<int, string>|null */
    private ?array $histories = null;

    /** @var array<string, CopyState> */
    private array $states = [];

    /** @var array<int, array<string, SetCopy>> store id => state => copy: those on disks are all alike */
    private array $plainCopies = [];

    /** @var array<string, Level> */
    private array $levels = [];

    public function __construct(
        public readonly Workload $workload,
        ?OpenStores $stores = null,
        private readonly CopyRule $rule = new CopyRule,
    ) {
        clearstatcache(true); // a worker lives long, and PHP remembers what files were
        $this->stores = $stores ?? new OpenStores;
        // Tens of thousands of small objects, none of which is garbage: looking for some would take a third of the time.
        gc_disable();
        try {
            $this->judge = Kinds::of($workload)->judge($this);
            $this->sets = $this->outlines($this->copies());
            foreach ($this->sets as $set) {
                $this->byName[$set->name] = $set;
            }
            $this->graph = new ChainGraph(array_map(fn (SetOutline $set): ChainSet => $set->set, $this->sets));
            $this->chains = new ReadableChains($this->graph);
        } finally {
            gc_enable();
        }
    }

    public function set(string $name): ?SetOutline
    {
        return $this->byName[$name] ?? null;
    }

    /** The set with all that is recorded of it. */
    public function model(SetOutline $set): BackupSet
    {
        return $this->models[$set->id] ??= BackupSet::query()
            ->with('copies.store')
            ->findOrFail($set->id)
            ->setRelation('workload', $this->workload);
    }

    /** The model of the point that the finder chose; null for none. */
    public function modelOf(?ChainSet $set): ?BackupSet
    {
        $outline = $set === null ? null : $this->set($set->id);

        return $outline === null ? null : $this->model($outline);
    }

    public function historyName(SetOutline $set): string
    {
        $this->histories ??= History::query()->where('workload_id', $this->workload->id)->pluck('name', 'id')->all();

        return $this->histories[$set->history] ?? '';
    }

    public function newest(): ?SetOutline
    {
        return $this->sets === [] ? null : $this->sets[array_key_last($this->sets)];
    }

    /** @return list<SetOutline> a set's chain, what it rests on first; none if that is not known whole */
    public function chain(string $name): array
    {
        $chain = $this->graph->chainOf($name);

        return $chain instanceof Chain
            ? array_values(array_filter(array_map(fn (ChainSet $set): ?SetOutline => $this->set($set->id), $chain->sets)))
            : [];
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
        return $this->judge->usability($set)->state;
    }

    /** Why the point is not whole; null if it is. */
    public function because(SetOutline $set): ?string
    {
        return $this->judge->usability($set)->because;
    }

    /** The set whose loss this point survives, since what it needs of it lies elsewhere; null for none. */
    public function bridged(SetOutline $set): ?SetOutline
    {
        return $this->judge->bridged($set);
    }

    /** By sets, where nothing else holds what is in them: why a point cannot be given back; null if each set of its chain can be read. */
    public function brokenChain(SetOutline $set): ?string
    {
        if ($this->graph->blockageOf($set->name) !== null) {
            return $set->baseUnknownBecause ?? 'what it rests on is not known';
        }
        $lowest = $this->chains->lowestUnreadable($set->name);

        if ($lowest === null || $lowest->id === $set->name) {
            return $lowest === null ? null : $set->unreadable();
        }
        $below = $this->set($lowest->id);

        return "it rests on {$lowest->id}, of which ".
            ($below === null || $below->parts === [] ? 'no copy can be read' : lcfirst((string) $below->unreadable()));
    }

    /** @param  list<string>|null  $selection  what the points are judged by, as their kind says it; null for everything */
    public function find(Instant $wanted, Demands $demands, ?array $selection = null): FoundPoint
    {
        return $this->finder($selection)->find($wanted, $demands);
    }

    /** @param  list<string>|null  $selection */
    public function finder(?array $selection = null): PointFinder
    {
        [$blockages, $doubts] = [$this->judge->blockages($selection), $this->judge->doubts($selection)];

        return new PointFinder(
            $this->graph,
            fn (ChainSet $set): ?string => $blockages($this->byName[$set->id]),
            $this->sites(),
            fn (ChainSet $set): ?string => $set->inDoubt ? $doubts($this->byName[$set->id]) : null,
        );
    }

    public function route(?string $site): Route
    {
        return $this->rates()->route($this->stores->all()->all(), $site ?? $this->workload->site);
    }

    public function rates(): RatesNow
    {
        return $this->rates ??= RatesNow::read();
    }

    /** @return list<string> */
    public function storeNames(): array
    {
        return array_map(strval(...), array_keys($this->sites()));
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
        $snapshots = array_flip(array_column($this->rows("SELECT id FROM sets WHERE workload_id = ? AND level = 'snapshot'"), 0));
        $stores = $this->stores->all()->all();
        $open = array_map($this->stores->of(...), $stores);
        $special = $this->special();
        foreach (
            $this->rows('SELECT set_id, id, store_id, path, bytes, state, part FROM copies WHERE workload_id = '.
                '?') as [$set, $id, $store, $path, $bytes, $recorded, $part]
        ) {
            $state = $this->states[$recorded] ??= CopyState::from($recorded);
            [$because, $segments, $gzipped, $known] = $special[$id] ?? [null, [], null, null];
            $media = $segments === [] ? [] : array_map(fn (TapeSegment $segment): string => $segment->label, $segments);
            $offline = [];
            if ($state === CopyState::Offline) {
                $offline = $media;
            } elseif ($state->isReadable() && isset($snapshots[$set]) && Kinds::of($this->workload)->source($this->workload)->isGone()) {
                [$state, $because] = [CopyState::Missing, 'It was kept only at the source, which is gone.'];
            } elseif ($state->isReadable()) {
                $look = $open[$store]->look($path, $bytes, $segments);
                if ($look->state !== CopyState::Ok) {
                    [$state, $because, $offline] = [$look->state, $look->because, $look->offline];
                }
            }
            // What of a damaged copy still can be read is known only of the file that was read back.
            $partly =
                $state === CopyState::Damaged && $known !== null && $open[$store]->look($path, $known, $segments)->state->isReadable();
            $copy =
                $media !== []
                    ? new SetCopy($stores[$store]->name, $state, $media, $segments[0]->position, $offline)
                    : ($this->plainCopies[$store][$state->value] ??= new SetCopy($stores[$store]->name, $state));
            $copies[$set][] = new CopyOutline(
                $id,
                $stores[$store],
                $path,
                $bytes,
                $segments,
                $state,
                $because,
                $offline,
                $copy,
                $gzipped,
                $partly,
                $part,
            );
        }

        return $copies;
    }

    /** @return array<array-key, array{string|null, list<TapeSegment>, bool|null, int|null}> of copies of which there is more to say */
    private function special(): array
    {
        $special = [];
        foreach (
            $this->rows(
                'SELECT id, state_because, segments, gzipped, damage FROM copies WHERE workload_id = ? AND (state_because IS NOT NULL OR '.
                    'segments IS NOT NULL)',
            ) as [$id, $because, $segments, $gzipped, $damage]
        ) {
            $special[$id] = [
                $because,
                $segments === null ? [] : array_map(TapeSegment::fromArray(...), (array) json_decode($segments, true)),
                $gzipped === null ? null : (bool) $gzipped,
                $damage === null ? null : json_decode($damage, true)['bytes'] ?? null,
            ];
        }

        return $special;
    }

    /**
     * Many thousands of rows, as bare lists.
     *
     * @return list<list<mixed>>
     */
    private function rows(string $sql): array
    {
        $statement = DB::connection()->getPdo()->prepare($sql); // numbers come as numbers: statements are not emulated
        $statement->execute([$this->workload->id]);

        return $statement->fetchAll(PDO::FETCH_NUM);
    }

    /**
     * The copies of a set, those that may not be read as if they were not there.
     *
     * @param  list<CopyOutline>  $copies
     * @return list<CopyOutline>
     */
    private function withoutAvoided(array $copies): array
    {
        $allowed = $this->rule->among(array_map(fn (CopyOutline $copy): SetCopy => $copy->copy, $copies));

        return array_map(
            fn (CopyOutline $copy): CopyOutline => in_array($copy->copy, $allowed, true) || ! $copy->state->isReadable()
                ? $copy
                : $copy->missing('It was to be avoided.'),
            $copies,
        );
    }

    /**
     * For the rules of the chain a set of several parts has the copies of the part that has the fewest: it can be read if that can.
     *
     * @param  list<CopyOutline>  $copies
     * @param  list<int>  $parts
     * @return list<SetCopy>
     */
    private static function ofScarcestPart(array $copies, array $parts): array
    {
        $scarcest = null;
        foreach ($parts as $part) {
            $of = array_values(array_filter($copies, fn (CopyOutline $copy): bool => $copy->part === $part));
            $readable = array_values(array_filter($of, fn (CopyOutline $copy): bool => $copy->state->isReadable()));
            if ($scarcest === null || count($readable) < $scarcest[0]) {
                $scarcest = [count($readable), array_map(fn (CopyOutline $copy): SetCopy => $copy->copy, $of)];
            }
        }

        return $scarcest[1] ?? [];
    }

    /**
     * @param  array<int, list<CopyOutline>>  $copies
     * @return array<int, SetOutline> oldest first
     */
    private function outlines(array $copies): array
    {
        $anyConsistency = ! $this->judge->needsConsistency();
        $parts = $this->parts();
        $captured = $this->capturedElsewhere();
        $bases = $this->recordedBases();
        $sets = [];
        foreach (
            $this->rows(
                'SELECT id, name, level, instant, history_id, base_id, consistency, in_doubt, cataloged, bytes, tree_files, doubtful '.
                    'FROM sets WHERE workload_id = ?',
            ) as [$id, $name, $levelName, $instant, $history, $base, $consistency, $inDoubt, $cataloged, $bytes, $files, $doubtful]
        ) {
            $level = $this->levels[$levelName] ??= Level::of($levelName);
            $own = $this->inOrder($copies[$id] ?? []);
            [$baseName, $unknown] = $bases[$id] ?? [null, null];
            $sets[$id] = new SetOutline(
                $id,
                $name,
                $level,
                $instant,
                $history,
                $base,
                $unknown,
                $bytes,
                $files,
                $cataloged,
                $own,
                new ChainSet(
                    $name,
                    $level,
                    Instant::ofMicroseconds($captured[$id] ?? $instant),
                    $bytes,
                    isset($parts[$id])
                        ? self::ofScarcestPart($own, array_keys($parts[$id]))
                        : array_map(fn (CopyOutline $copy): SetCopy => $copy->copy, $own),
                    $baseName,
                    (string) $history,
                    $anyConsistency || Consistency::tryFrom($consistency)?->isOfOneInstant() === true,
                    (bool) $inDoubt,
                ),
                $doubtful,
                $parts[$id] ?? [],
            );
        }

        return self::oldestFirst($sets);
    }

    /** @return array<int, array<int, string>> set id => number => name, of sets of several parts */
    private function parts(): array
    {
        $parts = [];
        foreach (
            $this->rows(
                'SELECT p.set_id, p.number, p.name FROM set_parts p JOIN sets s ON s.id = p.set_id WHERE s.workload_id = ? ORDER BY '.
                    'p.set_id, p.number',
            ) as [$id, $number, $name]
        ) {
            $parts[$id][$number] = $name;
        }

        return $parts;
    }

    /**
     * Of sets of one instant all but one stand elsewhere in the catalog; for the rules of the chain they are of one instant.
     *
     * @return array<int, int> set id => microseconds
     */
    private function capturedElsewhere(): array
    {
        $at = "TIMESTAMPDIFF(MICROSECOND, '1970-01-01', captured_at)";

        return array_column($this->rows("SELECT id, $at FROM sets WHERE workload_id = ? AND instant <> $at"), 1, 0);
    }

    /** @return array<int, array{string|null, string|null}> set id => the base that the set itself names, why it is unknown */
    private function recordedBases(): array
    {
        $bases = [];
        foreach (
            $this->rows(
                'SELECT id, base_name, base_unknown_because FROM sets WHERE workload_id = ? AND (base_recorded OR base_unknown_because '.
                    'IS NOT NULL)',
            ) as [$id, $name, $because]
        ) {
            $bases[$id] = [$name, $because];
        }

        return $bases;
    }

    /**
     * @param  list<CopyOutline>  $copies
     * @return list<CopyOutline> as they were made, those to be avoided as if they were not there
     */
    private function inOrder(array $copies): array
    {
        if (isset($copies[1])) {
            usort($copies, fn (CopyOutline $a, CopyOutline $b): int => $a->id <=> $b->id);
        }

        return $this->rule->isNone() ? $copies : $this->withoutAvoided($copies);
    }

    /**
     * The server would sort whole wide rows; here they mostly are in order already.
     *
     * @param  array<int, SetOutline>  $sets
     * @return array<int, SetOutline>
     */
    private static function oldestFirst(array $sets): array
    {
        $previous = PHP_INT_MIN;
        foreach ($sets as $set) {
            if ($set->instant < $previous) {
                uasort($sets, fn (SetOutline $a, SetOutline $b): int => $a->instant <=> $b->instant);
                break;
            }
            $previous = $set->instant;
        }

        return $sets;
    }
}
