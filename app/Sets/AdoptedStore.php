<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\Copy;
use App\Models\Store;
use App\Models\Workload;

/** The folder that adopted archives lie in, as a read-only store. */
final class AdoptedStore
{
    public static function of(string $root, string $workload, string $site): Store
    {
        $store = Store::query()->where('root', $root)->first();
        if ($store !== null) {
            return $store;
        }
        $name = $free = "adopted-$workload";
        for ($n = 2; Store::query()->where('name', $free)->exists(); $n++) {
            $free = "$name-$n";
        }

        return Store::query()->create(['name' => $free, 'site' => $site, 'root' => $root, 'read_only' => true]);
    }

    /** Takes back a workload and its store that were made for an adoption from which nothing came. */
    public static function undo(Workload $workload, Store $store): void
    {
        $workload->histories()->delete();
        $workload->delete();
        if (! Copy::query()->where('store_id', $store->id)->exists()) {
            $store->delete();
        }
    }
}
