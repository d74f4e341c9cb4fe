<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Jobs\Line;
use App\Kinds\Items\Items;
use App\Models\Workload;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** What messages said goes with the last set that had them. */
final class ForgetGoneItems implements ShouldBeUnique, ShouldQueue
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
            ItemCatalog::forgetGone($workload);
        }
    }
}
