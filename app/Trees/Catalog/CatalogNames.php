<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Instance;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\NameList;

/** The list of a workload's names in the home; if it is not there it is made anew from the catalog. */
final class CatalogNames
{
    public static function of(int $workload): NameList
    {
        $path = Instance::folder('names')."/$workload";
        $list = new NameList($path);
        if (! $list->exists()) {
            $partial = "$path.".getmypid();
            @unlink($partial);
            (new NameList($partial))->add((function () use ($workload): iterable {
                foreach (DB::table('paths')->where('workload_id', $workload)->select('name')->distinct()->cursor() as $row) {
                    yield $row->name;
                }
            })());
            rename($partial, $path);
        }

        return $list;
    }
}
