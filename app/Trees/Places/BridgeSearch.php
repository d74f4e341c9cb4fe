<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Sets\SetFiles;
use App\Sets\SetOutline;
use App\Trees\Catalog\DigestList;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\PlaceIndex;
use RuntimeException;

/**
 * Looks, for the contents of sets that cannot be read, for another set that holds them. A set can only hold what was in
 * its source at its instant, so the spans of the versions say which sets to ask, and those that store everything are
 * asked first.
 */
final class BridgeSearch
{
    private const OPEN = 100;

    /** @var array<int, PlaceIndex|null> the indexes in use, the one used last at the end */
    private array $indexes = [];

    /**
     * @param  array<int, SetOutline>  $sets  of one workload, oldest first
     * @param  array<int, array<array-key, true>>  $touched  set id => the only digests that what is left of it does not give
     * @param  int  $oneByOne  more contents than this are not looked up one by one: every index is gone through once instead
     */
    public function __construct(
        private readonly array $sets,
        private readonly array $touched = [],
        private readonly int $oneByOne = 20_000,
    ) {
    }

    /**
     * @param  list<int>  $unreadable  set ids
     * @return list<string> the digests that only sets among these hold
     */
    public function lostDigests(array $unreadable): array
    {
        $lost = [];
        foreach ($unreadable as $id) {
            foreach (isset($this->touched[$id]) ? array_keys($this->touched[$id]) : $this->index($id)?->digests() ?? [] as $digest) {
                $lost[$digest] = true;
            }
        }
        $gone = array_flip($unreadable);
        $readable = array_filter($this->sets, fn (SetOutline $set): bool => ! isset($gone[$set->id]) || isset($this->touched[$set->id]));
        if ($readable !== []) {
            count($lost) > $this->oneByOne ? $this->goThroughAll($readable, $lost) : $this->askEach($readable, $lost);
        }

        return array_map(strval(...), array_keys($lost));
    }

    /**
     * @param  array<int, SetOutline>  $readable
     * @param  array<array-key, true>  $lost
     */
    private function goThroughAll(array $readable, array &$lost): void
    {
        foreach ($readable as $set) {
            foreach ($this->index($set->id)?->digests() ?? [] as $digest) {
                if (! isset($this->touched[$set->id][$digest])) {
                    unset($lost[$digest]);
                }
            }
            if ($lost === []) {
                return;
            }
        }
    }

    /**
     * @param  array<int, SetOutline>  $readable
     * @param  array<array-key, true>  $lost
     */
    private function askEach(array $readable, array &$lost): void
    {
        $byHistory = [];
        foreach ($readable as $set) {
            // What stores more than the changes since the set before it comes first.
            $byHistory[$set->history][$set->level->name === 'incr' || $set->level->isLog() ? 1 : 0][] = $set;
        }
        foreach (array_chunk(array_map(strval(...), array_keys($lost)), 500) as $chunk) {
            $list = DigestList::sql($chunk);
            foreach (
                DB::select(
                    'SELECT digest, history_id, first, until FROM versions WHERE history_id IN ('.
                        implode(',', array_keys($byHistory)).
                        ") AND digest IN ($list)",
                ) as $row
            ) {
                if (! isset($lost[$row->digest])) {
                    continue;
                }
                foreach ([0, 1] as $rank) {
                    foreach (self::between($byHistory[(int) $row->history_id][$rank] ?? [], (int) $row->first, (int) $row->until) as $set) {
                        if (! isset($this->touched[$set->id][$row->digest]) && $this->index($set->id)?->find($row->digest) !== null) {
                            unset($lost[$row->digest]);

                            continue 3;
                        }
                    }
                }
            }
        }
    }

    /**
     * @param  list<SetOutline>  $sets  oldest first
     * @return iterable<SetOutline>
     */
    private static function between(array $sets, int $first, int $until): iterable
    {
        [$low, $high] = [0, count($sets)];
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($sets[$middle]->instant < $first) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }
        for (; $low < count($sets) && $sets[$low]->instant < $until; $low++) {
            yield $sets[$low];
        }
    }

    private function index(int $id): ?PlaceIndex
    {
        if (array_key_exists($id, $this->indexes)) {
            $index = $this->indexes[$id];
            unset($this->indexes[$id]);
        } else {
            try {
                $index = PlaceIndex::open(SetFiles::placeIndex($id));
            } catch (RuntimeException) {
                $index = null;
            }
            if (count($this->indexes) >= self::OPEN) {
                unset($this->indexes[array_key_first($this->indexes)]);
            }
        }

        return $this->indexes[$id] = $index;
    }
}
