<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\Store;
use App\Models\Workload;
use App\Stores\OpenStores;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\ReadableChains;
use Kaiseki\Core\Chain\SetCopy;

/** A set that lies on a cartridge, whole or a part of it. */
final readonly class OnCartridge
{
    private function __construct(
        public Workload $workload,
        public SetOutline $set,
        /** Byte on this cartridge at which it begins. */
        public int $position,
        /** Of it on this cartridge. */
        public int $bytes,
        /** Over how many cartridges it lies. */
        public int $parts,
        /** Whether its point can be given back, by the rule by sets, with nothing but this cartridge. */
        public bool $isPointAlone,
    ) {
    }

    /**
     * @param  list<int>|null  $workloads  ids of those to tell of; null for all
     * @return list<self> in winding order
     */
    public static function of(Store $store, string $label, ?array $workloads = null): array
    {
        $ids = array_map(
            fn (object $row): int => (int) $row->workload_id,
            DB::select(
                'SELECT DISTINCT workload_id FROM copies WHERE store_id = ? AND JSON_CONTAINS(JSON_EXTRACT(segments, \'$[*].label\'), '.
                    'JSON_QUOTE(?))',
                [$store->id, $label],
            ),
        );
        $found = [];
        $stores = new OpenStores;
        foreach (
            Workload::query()
                ->whereIn('id', $workloads === null ? $ids : array_intersect($ids, $workloads))
                ->get() as $workload
        ) {
            $points = new Points($workload, $stores);
            $alone = new ReadableChains(
                new ChainGraph(array_map(fn (SetOutline $set): ChainSet => self::onlyHere($set, $store, $label), $points->sets)),
            );
            foreach ($points->sets as $set) {
                foreach ($set->copies as $copy) {
                    foreach ($copy->store->id === $store->id ? $copy->segments : [] as $segment) {
                        if ($segment->label === $label) {
                            $found[] = new self(
                                $workload,
                                $set,
                                $segment->position,
                                $segment->bytes,
                                count($copy->segments),
                                $alone->because(self::onlyHere($set, $store, $label)) === null,
                            );
                        }
                    }
                }
            }
        }
        usort($found, fn (self $a, self $b): int => $a->position <=> $b->position);

        return $found;
    }

    /** The set as if it had no copy but the one on this cartridge. */
    private static function onlyHere(SetOutline $set, Store $store, string $label): ChainSet
    {
        $copies = [];
        foreach ($set->copies as $copy) {
            if ($copy->store->id === $store->id && $copy->media() === [$label] && $copy->state->isReadable()) {
                $copies[] = new SetCopy($store->name, CopyState::Ok, [$label]);
            }
        }

        return new ChainSet($set->name, $set->level, $set->set->capturedAt, $set->bytes, $copies, $set->set->base, $set->set->history);
    }
}
