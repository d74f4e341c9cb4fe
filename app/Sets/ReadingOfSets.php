<?php

declare(strict_types=1);

namespace App\Sets;

use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Estimate\Costs;
use Kaiseki\Core\Estimate\RestoreEstimate;

/** A plan for whole sets, or a known part of each, as kinds read them that do not look into their archives. */
final readonly class ReadingOfSets implements ReadingPlan
{
    /** @param  list<array{ChainSet, int}>  $pieces  sets, and the bytes that are needed of each */
    private function __construct(private ReadingList $list, private array $pieces, private Route $route, private Costs $costs)
    {
    }

    /**
     * @param  array<int, int|null>  $bytes  id of a set => bytes that are needed of it; null for all of each part
     * @param  array<int, list<int>>  $parts  id of a set => the numbers of those parts that are wanted; all where it is not named
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public static function for(Points $points, array $bytes, CopyRule $rule = new CopyRule, array $parts = []): self
    {
        $route = $points->route(null);
        $pieces = [];
        foreach ($bytes as $id => $needed) {
            foreach (isset($points->sets[$id]) ? $points->sets[$id]->pieces($parts[$id] ?? null) : [] as [$set, $all]) {
                $pieces[] = [$set, $needed ?? $all];
            }
        }
        $list =
            CopyChooser::choose($pieces, $route, $rule) ??
            throw CannotPlan::because(
                $rule->isNone()
                    ? 'something that is needed has no copy that can be read'
                    : 'the only readable copies of something that is needed were to be avoided',
            );

        return new self($list, $pieces, $route, $points->rates()->costs($points->stores->all()->all(), $points->workload->site));
    }

    public function list(): ReadingList
    {
        return $this->list;
    }

    public function estimate(): RestoreEstimate
    {
        return RestoreEstimate::of($this->list, 0, $this->bytes(), $this->costs);
    }

    public function estimateWith(CopyRule $rule): ?RestoreEstimate
    {
        $list = CopyChooser::choose($this->pieces, $this->route, $rule);

        return $list === null ? null : RestoreEstimate::of($list, 0, $this->bytes(), $this->costs);
    }

    public function bytes(): int
    {
        return array_sum(array_column($this->pieces, 1));
    }

    public function copiesByStore(): array
    {
        return self::countByStore(array_column($this->pieces, 0));
    }

    /**
     * @param  list<ChainSet>  $sets
     * @return array<string, int>
     */
    public static function countByStore(array $sets): array
    {
        $counts = [];
        foreach ($sets as $set) {
            foreach (array_unique(array_map(fn (SetCopy $copy): string => $copy->store, $set->readableCopies())) as $store) {
                $counts[$store] = ($counts[$store] ?? 0) + 1;
            }
        }

        return $counts;
    }

    public function setsNeeded(): int
    {
        return count($this->pieces);
    }

    /** @return array<string, string> name of a set, with #NUMBER of a part where it has several => the store that it is read from */
    public function stores(): array
    {
        $stores = [];
        foreach ($this->list->readings as $reading) {
            $stores[$reading->set->id] = $reading->copy->store;
        }

        return $stores;
    }

    public function media(): array
    {
        return array_values(
            array_unique(array_merge([], ...array_map(fn (Reading $reading): array => $reading->copy->media, $this->list->readings))),
        );
    }
}
