<?php

declare(strict_types=1);

namespace App\Estate;

use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Lane;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Collection;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Chain\StoreRate;
use Kaiseki\Core\Instant;

/** The points of one workload as they are now: its sets, the state of their copies, and what each can give back. */
final class Points
{
    /** @var Collection<int, BackupSet> oldest first */
    public readonly Collection $sets;

    public readonly ChainGraph $graph;

    public readonly LostContent $lost;

    /** @var array<int, array{CopyState, string|null}> copy id => state as it is now, and why */
    private array $states = [];

    /** @var array<int, int>|null */
    private ?array $lostAt = null;

    public function __construct(public readonly Workload $workload)
    {
        clearstatcache(true); // a worker lives long, and PHP remembers what files were
        $this->sets = $workload->sets()->with('copies.store')->orderBy('instant')->get()->keyBy('id');
        foreach ($this->sets as $set) {
            foreach ($set->copies as $copy) {
                $this->states[$copy->id] = self::look($copy);
            }
        }
        $this->graph = new ChainGraph($this->sets->map($this->chainSet(...)));
        $this->lost = new LostContent($this->sets, fn (BackupSet $set): bool => $this->isReadable($set));
    }

    public function set(string $name): ?BackupSet
    {
        return $this->sets->first(fn (BackupSet $set): bool => $set->name === $name);
    }

    public function state(Copy $copy): CopyState
    {
        return $this->states[$copy->id][0];
    }

    public function stateBecause(Copy $copy): ?string
    {
        return $this->states[$copy->id][1];
    }

    public function isReadable(BackupSet $set): bool
    {
        return $set->copies->contains(fn (Copy $copy): bool => $this->state($copy)->isReadable());
    }

    /** whole, part or no. */
    public function usable(BackupSet $set): string
    {
        $lost = $this->lostAt()[$set->id] ?? 0;

        return $lost === 0 ? 'whole' : ($lost < $set->tree_files ? 'part' : 'no');
    }

    /** Why the point is not whole; null if it is. */
    public function because(BackupSet $set): ?string
    {
        $lost = $this->lostAt()[$set->id] ?? 0;
        if ($lost === 0) {
            return null;
        }
        $words = sprintf('%s of its %s files %s in no archive that can be read', number_format($lost), number_format($set->tree_files), $lost === 1 ? 'is' : 'are');

        return $set->base_unknown_because === null ? $words : "$words: {$set->base_unknown_because}";
    }

    public function isBaseAssumed(BackupSet $set): bool
    {
        $chain = $this->graph->chainOf($set->name);

        return $chain instanceof Chain && $chain->baseAssumed;
    }

    /**
     * @param  list<string>|null  $paths  the selection that the points are judged by; null for the whole tree
     */
    public function find(Instant $wanted, Demands $demands, ?array $paths = null): FoundPoint
    {
        return $this->finder($paths)->find($wanted, $demands);
    }

    /** @param  list<string>|null  $paths */
    public function finder(?array $paths = null): PointFinder
    {
        $missing = $paths === null ? $this->lostAt() : $this->lost->countAt($this->sets, $paths);

        return new PointFinder($this->graph, function (ChainSet $set) use ($missing, $paths): ?string {
            $model = $this->set($set->id);
            $count = $model === null ? 0 : $missing[$model->id] ?? 0;
            if ($model === null || $count === 0) {
                return null;
            }

            return $paths === null ? $this->because($model) : sprintf('%s selected %s in no archive that can be read', number_format($count), $count === 1 ? 'file is' : 'files are');
        }, $this->sites());
    }

    public function route(?string $site): Route
    {
        $stores = [];
        foreach (Store::all() as $store) {
            $stores[$store->name] = new StoreRate($store->site, $store->read_mb_s, $store->setup_s);
        }
        $lanes = [];
        foreach (Lane::all() as $lane) {
            $lanes[$lane->from_site][$lane->to_site] = $lane->mb_s;
        }

        return new Route($stores, $lanes, $site ?? $this->workload->site);
    }

    /** @return array<string, string> store => site */
    public function sites(): array
    {
        return Store::query()->pluck('site', 'name')->all();
    }

    /** @return array<int, int> */
    private function lostAt(): array
    {
        return $this->lostAt ??= $this->lost->isNone() ? [] : $this->lost->countAt($this->sets);
    }

    private function chainSet(BackupSet $set): ChainSet
    {
        $copies = [];
        foreach ($set->copies as $copy) {
            $copies[] = new SetCopy($copy->store->name, $this->state($copy));
        }

        return new ChainSet(
            $set->name, Level::of($set->level), Instant::ofMicroseconds($set->instant), $set->bytes, $copies,
            $set->base_recorded ? $set->base_name : null, (string) $set->history_id,
            // Files from plain archives are of unknown consistency, and that is enough for files.
            $this->workload->kind === 'files' || in_array($set->consistency, ['application', 'crash'], true), $set->in_doubt,
        );
    }

    /** @return array{CopyState, string|null} */
    private static function look(Copy $copy): array
    {
        $state = CopyState::from($copy->state);
        if (! $state->isReadable() || $state === CopyState::Offline) {
            return [$state, $copy->state_because];
        }
        $size = @filesize($copy->file());
        if ($size === false) {
            return [CopyState::Missing, "There is no file {$copy->path} in {$copy->store->root}."];
        }
        if ($size !== $copy->bytes) {
            return [CopyState::Damaged, sprintf('The file has %s bytes, but had %s when it was registered.', number_format($size), number_format($copy->bytes))];
        }

        return [$state, null];
    }
}
