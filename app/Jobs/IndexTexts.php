<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Workload;
use App\Trees\Catalog\TextIndex;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Looks for words in what was cataloged since the last time. */
final class IndexTexts implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 3600;

    public function __construct()
    {
        $this->onQueue(Line::Texts->value);
    }

    public function handle(): void
    {
        foreach (Workload::query()->orderBy('id')->get() as $workload) {
            if (TextIndex::isBehind($workload->id)) {
                TextIndex::bringUpToDate($workload);
            }
        }
    }
}
