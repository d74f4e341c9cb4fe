<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Jobs\Line;
use App\Kinds\Items\Items;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Finds items that nobody has found yet, and looks through what waits for its words. */
final class LookThroughItems implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 3600;

    public function __construct()
    {
        $this->onQueue(Line::Texts->value);
    }

    public function handle(): void
    {
        foreach (Workload::query()->where('kind', Items::NAME)->get() as $workload) {
            if (ItemCatalog::isBehind($workload)) {
                ItemCatalog::bringUpToDate($workload);
            }
            if (ItemWords::waiting($workload) > 0) {
                ItemWords::bringUpToDate($workload);
            }
        }
    }
}
